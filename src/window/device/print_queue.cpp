#include "device/print_queue.h"

#include "base/error.h"

#include <cups/cups.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <memory>

namespace yokai {

namespace {

Error refused(const PrintOrder& order)
{
    return Error(ErrorKind::Device, "cannot print on '{}': {}; look whether the printer is there and takes jobs", order.queue, cupsLastErrorString());
}

// What was set for the printer, and what makes it print as large as it is.
class Choices {
public:
    explicit Choices(const cups_dest_t& printer)
    {
        for (int k = 0; k < printer.num_options; ++k)
            set(printer.options[k].name, printer.options[k].value);
    }
    ~Choices() { cupsFreeOptions(count_, all_); }
    Choices(const Choices&) = delete;
    Choices& operator=(const Choices&) = delete;
    void set(const char* name, const std::string& value) { count_ = cupsAddOption(name, value.c_str(), count_, &all_); }
    void drop(const char* name) { count_ = cupsRemoveOption(name, count_, &all_); }
    int count() const { return count_; }
    cups_option_t* all() const { return all_; }

private:
    cups_option_t* all_ = nullptr;
    int count_ = 0;
};

// The printer's own name for a paper of this size, or one of any size. Papers are known upright; a page that lies across is turned to
// its paper by the queue.
std::string paperOf(cups_dest_t* printer, cups_dinfo_t* info, const PrintOrder& order)
{
    constexpr double perMm = 100; // CUPS counts in hundredths
    constexpr int slack = 150;    // as much as a paper's name in points rounds it
    const int width = int(std::lround(std::min(order.width, order.height) * perMm)), height = int(std::lround(std::max(order.width, order.height) * perMm));
    cups_size_t size{};
    if (cupsGetDestMediaBySize(CUPS_HTTP_DEFAULT, printer, info, width, height, CUPS_MEDIA_FLAGS_DEFAULT, &size) && std::abs(size.width - width) <= slack &&
        std::abs(size.length - height) <= slack)
        return size.media;
    return "Custom." + std::to_string(int(std::lround(width / perMm))) + "x" + std::to_string(int(std::lround(height / perMm))) + "mm";
}

// The scheduler of Debian's cups 2.4.2-3+deb12u10 ends on a document whose name has a space: it never gets past it while it writes the
// options of the filters. The job's own title, which people see, is not written there.
std::string documentName(std::string title)
{
    std::replace_if(
        title.begin(), title.end(), [](unsigned char c) { return std::isspace(c) != 0; }, '-');
    return title;
}

} // namespace

int sendToQueue(const PrintOrder& order, const Bytes& pdf)
{
    const std::unique_ptr<cups_dest_t, void (*)(cups_dest_t*)> printer(cupsGetNamedDest(CUPS_HTTP_DEFAULT, order.queue.c_str(), nullptr), [](cups_dest_t* p) { cupsFreeDests(1, p); });
    if (!printer)
        throw refused(order);
    const std::unique_ptr<cups_dinfo_t, void (*)(cups_dinfo_t*)> info(cupsCopyDestInfo(CUPS_HTTP_DEFAULT, printer.get()), cupsFreeDestInfo);
    if (!info)
        throw refused(order);
    Choices choices(*printer);
    for (const char* scales : {"fit-to-page", "fitplot", "scaling", "natural-scaling", "number-up"})
        choices.drop(scales);
    choices.set("print-scaling", "none");
    choices.set("media", paperOf(printer.get(), info.get(), order));
    choices.set("copies", std::to_string(order.copies));
    choices.set("print-color-mode", order.colour ? "color" : "monochrome");
    int job = 0;
    const auto done = [](ipp_status_t status) { return status <= IPP_STATUS_OK_CONFLICTING; };
    if (!done(cupsCreateDestJob(CUPS_HTTP_DEFAULT, printer.get(), info.get(), &job, order.title.c_str(), choices.count(), choices.all())))
        throw refused(order);
    bool sent = cupsStartDestDocument(CUPS_HTTP_DEFAULT, printer.get(), info.get(), job, documentName(order.title).c_str(), CUPS_FORMAT_PDF, 0, nullptr, 1) == HTTP_STATUS_CONTINUE;
    constexpr std::size_t part = 1 << 16;
    for (std::size_t from = 0; sent && from < pdf.size(); from += part)
        sent = cupsWriteRequestData(CUPS_HTTP_DEFAULT, reinterpret_cast<const char*>(pdf.data() + from), std::min(part, pdf.size() - from)) == HTTP_STATUS_CONTINUE;
    if (!sent || !done(cupsFinishDestDocument(CUPS_HTTP_DEFAULT, printer.get(), info.get()))) {
        const Error why = refused(order);
        cupsCancelDestJob(CUPS_HTTP_DEFAULT, printer.get(), job);
        throw why;
    }
    return job;
}

} // namespace yokai
