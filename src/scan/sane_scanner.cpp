#include "sane_scanner.h"

#include "base/error.h"
#include "base/length.h"

#include <sane/sane.h>
#include <sane/saneopts.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstring>

namespace yokai {

namespace {

// SANE as it is set up.
void begin()
{
    static const SANE_Status status = [] {
        SANE_Int version = 0;
        return sane_init(&version, nullptr);
    }();
    if (status != SANE_STATUS_GOOD)
        throw Error(ErrorKind::Device, "scanners cannot be used: {}; see that SANE is set up", sane_strstatus(status));
}

class Scanner {
public:
    explicit Scanner(const std::string& name) : name_(name)
    {
        require(sane_open(name.c_str(), &handle_));
        SANE_Int count = 0;
        require(sane_control_option(handle_, 0, SANE_ACTION_GET_VALUE, &count, nullptr));
        count_ = count;
    }
    Scanner(const Scanner&) = delete;
    Scanner& operator=(const Scanner&) = delete;
    ~Scanner()
    {
        if (handle_)
            sane_close(handle_);
    }
    SANE_Handle handle() const { return handle_; }

    void require(SANE_Status status) const
    {
        if (status == SANE_STATUS_CANCELLED)
            throw Cancelled();
        if (status != SANE_STATUS_GOOD)
            throw Error(ErrorKind::Device, "the scanner '{}' says: {}; {}", name_, sane_strstatus(status),
                        status == SANE_STATUS_JAMMED          ? "free the paper and scan again"
                        : status == SANE_STATUS_NO_DOCS       ? "lay something in it and scan again"
                        : status == SANE_STATUS_COVER_OPEN    ? "close its cover and scan again"
                        : status == SANE_STATUS_DEVICE_BUSY   ? "see that no other program scans, and scan again"
                        : status == SANE_STATUS_ACCESS_DENIED ? "see that you may use it"
                                                              : "see that it is on and connected, and scan again");
    }

    // None where it has no such option, or not now.
    const SANE_Option_Descriptor* option(const char* name, SANE_Int* number = nullptr) const
    {
        for (SANE_Int k = 1; k < count_; ++k) {
            const SANE_Option_Descriptor* d = sane_get_option_descriptor(handle_, k);
            if (d && d->name && std::strcmp(d->name, name) == 0 && SANE_OPTION_IS_ACTIVE(d->cap)) {
                if (number)
                    *number = k;
                return d;
            }
        }
        return nullptr;
    }
    std::optional<double> number(const char* name) const
    {
        SANE_Int k = 0;
        const SANE_Option_Descriptor* d = option(name, &k);
        SANE_Word value = 0;
        if (!d || d->size != SANE_Int(sizeof value) || (d->type != SANE_TYPE_INT && d->type != SANE_TYPE_FIXED) ||
            sane_control_option(handle_, k, SANE_ACTION_GET_VALUE, &value, nullptr) != SANE_STATUS_GOOD)
            return std::nullopt;
        return numberOf(d, value);
    }
    void set(const char* name, double wanted) const
    {
        SANE_Int k = 0;
        const SANE_Option_Descriptor* d = option(name, &k);
        if (!d || !SANE_OPTION_IS_SETTABLE(d->cap) || d->size != SANE_Int(sizeof(SANE_Word)))
            return;
        SANE_Word value = wordOf(d, wanted);
        require(sane_control_option(handle_, k, SANE_ACTION_SET_VALUE, &value, nullptr));
    }
    std::vector<std::string> texts(const char* name) const
    {
        std::vector<std::string> out;
        const SANE_Option_Descriptor* d = option(name);
        if (d && d->constraint_type == SANE_CONSTRAINT_STRING_LIST)
            for (const SANE_String_Const* s = d->constraint.string_list; *s; ++s)
                out.emplace_back(*s);
        return out;
    }
    void set(const char* name, const std::string& wanted) const
    {
        SANE_Int k = 0;
        const SANE_Option_Descriptor* d = option(name, &k);
        if (!d || !SANE_OPTION_IS_SETTABLE(d->cap))
            return;
        std::vector<char> value(std::max(std::size_t(d->size), wanted.size() + 1), 0);
        std::copy(wanted.begin(), wanted.end(), value.begin());
        require(sane_control_option(handle_, k, SANE_ACTION_SET_VALUE, value.data(), nullptr));
    }
    // Of a number: the ends of what it may be, and all it may be where that is a list.
    std::pair<double, double> range(const SANE_Option_Descriptor* d, std::vector<double>* list = nullptr) const
    {
        if (d->constraint_type == SANE_CONSTRAINT_RANGE)
            return {numberOf(d, d->constraint.range->min), numberOf(d, d->constraint.range->max)};
        if (d->constraint_type != SANE_CONSTRAINT_WORD_LIST)
            return {0, 0};
        std::vector<double> all;
        for (SANE_Word n = 1; n <= d->constraint.word_list[0]; ++n)
            all.push_back(numberOf(d, d->constraint.word_list[n]));
        std::sort(all.begin(), all.end());
        if (list)
            *list = all;
        return all.empty() ? std::pair(0.0, 0.0) : std::pair(all.front(), all.back());
    }

private:
    static double numberOf(const SANE_Option_Descriptor* d, SANE_Word value) { return d->type == SANE_TYPE_FIXED ? SANE_UNFIX(value) : double(value); }
    static SANE_Word wordOf(const SANE_Option_Descriptor* d, double value)
    {
        if (d->constraint_type == SANE_CONSTRAINT_RANGE)
            value = std::clamp(value, numberOf(d, d->constraint.range->min), numberOf(d, d->constraint.range->max));
        return d->type == SANE_TYPE_FIXED ? SANE_FIX(value) : SANE_Word(std::lround(value));
    }
    std::string name_;
    SANE_Handle handle_ = nullptr;
    SANE_Int count_ = 0;
};

// What makers call it: "Color", "24bit Color", "True Gray", "Grayscale".
std::optional<std::string> modeOf(const Scanner& scanner, bool colour)
{
    std::optional<std::string> out;
    for (const std::string& mode : scanner.texts(SANE_NAME_SCAN_MODE)) {
        std::string small = mode;
        std::transform(small.begin(), small.end(), small.begin(), [](unsigned char c) { return char(std::tolower(c)); });
        const bool is = colour ? small.find("color") != std::string::npos || small.find("colour") != std::string::npos
                               : small.find("gray") != std::string::npos || small.find("grey") != std::string::npos;
        if (is && (!out || mode.size() < out->size()))
            out = mode;
    }
    return out;
}

// Where the unit of its area is the pixel, the glass's size is told by the resolution.
double mmOf(const Scanner& scanner, const char* name, double value)
{
    const SANE_Option_Descriptor* d = scanner.option(name);
    return d && d->unit == SANE_UNIT_PIXEL ? value * 25.4 / scanner.number(SANE_NAME_SCAN_RESOLUTION).value_or(300) : value;
}

// Into the picture: of a scanner that sends its colours one after another, one of them.
void put(const SANE_Parameters& p, const std::vector<SANE_Byte>& bytes, int height, Rgba8& out)
{
    const int channels = p.format == SANE_FRAME_RGB ? 3 : 1;
    for (int y = 0; y < height; ++y) {
        const SANE_Byte* row = bytes.data() + std::size_t(y) * std::size_t(p.bytes_per_line);
        for (int x = 0; x < p.pixels_per_line; ++x) {
            const auto sample = [&](int c) -> std::uint8_t {
                if (p.depth == 1) { // of lines 1 is ink
                    const bool set = row[x / 8] >> (7 - x % 8) & 1;
                    return set == (p.format == SANE_FRAME_GRAY) ? 0 : 255;
                }
                if (p.depth == 16) {
                    std::uint16_t wide = 0; // in the machine's own order
                    std::memcpy(&wide, row + (x * channels + c) * 2, 2);
                    return std::uint8_t((std::uint32_t(wide) * 255 + 32767) / 65535);
                }
                return row[x * channels + c];
            };
            Rgba& to = out.at(x, y);
            switch (p.format) {
            case SANE_FRAME_RGB:
                to = {sample(0), sample(1), sample(2), 255};
                break;
            case SANE_FRAME_RED:
                to.r = sample(0);
                break;
            case SANE_FRAME_GREEN:
                to.g = sample(0);
                break;
            case SANE_FRAME_BLUE:
                to.b = sample(0);
                break;
            default:
                to = {sample(0), sample(0), sample(0), 255};
            }
        }
    }
}

constexpr std::size_t mostScanned = 400'000'000; // bytes of one frame

// One frame: all of it, or one colour.
std::vector<SANE_Byte> frameOf(const Scanner& scanner, const SANE_Parameters& p, const Work& work)
{
    std::vector<SANE_Byte> out;
    const double expected = p.lines > 0 ? double(p.lines) * p.bytes_per_line : 0;
    std::vector<SANE_Byte> some(256 * 1024);
    for (;;) {
        SANE_Int got = 0;
        const SANE_Status status = sane_read(scanner.handle(), some.data(), SANE_Int(some.size()), &got);
        if (status == SANE_STATUS_EOF)
            return out;
        scanner.require(status);
        out.insert(out.end(), some.begin(), some.begin() + got);
        if (out.size() > mostScanned)
            throw Error(ErrorKind::Device, "the scan is over {} million bytes; scan a smaller area or at a lower resolution", std::to_string(mostScanned / 1'000'000));
        work.report(expected > 0 ? std::min(1.0, double(out.size()) / expected) : 0, "scanning");
    }
}

// Stopped between two reads, by the thread that reads: backends are not made for another's.
Rgba8 read(const Scanner& scanner, const Work& work)
{
    struct Ends {
        SANE_Handle handle;
        ~Ends() { sane_cancel(handle); } // ends a scan that came to its end, too
    } const ends{scanner.handle()};
    Rgba8 out;
    for (bool last = false; !last;) {
        scanner.require(sane_start(scanner.handle()));
        SANE_Parameters p{};
        scanner.require(sane_get_parameters(scanner.handle(), &p));
        const std::vector<SANE_Byte> bytes = frameOf(scanner, p, work);
        work.check();
        const int height = p.bytes_per_line > 0 ? int(bytes.size() / std::size_t(p.bytes_per_line)) : 0;
        if (p.pixels_per_line < 1 || height < 1 || (p.depth != 1 && p.depth != 8 && p.depth != 16))
            throw Error(ErrorKind::Device, "the scanner sent no picture; scan again");
        if (out.empty())
            out = Rgba8(p.pixels_per_line, height, Rgba{0, 0, 0, 255});
        if (out.width() != p.pixels_per_line)
            throw Error(ErrorKind::Device, "the scanner's colours are not of one size; scan again");
        put(p, bytes, std::min(height, out.height()), out);
        last = p.last_frame || p.format == SANE_FRAME_GRAY || p.format == SANE_FRAME_RGB;
    }
    return out;
}

} // namespace

Scanned scan(const ScanOrder& order, const Work& work)
{
    begin();
    const Scanner scanner(order.scanner);
    if (const auto mode = modeOf(scanner, order.colour))
        scanner.set(SANE_NAME_SCAN_MODE, *mode);
    if (const SANE_Option_Descriptor* d = scanner.option(SANE_NAME_BIT_DEPTH); d && scanner.number(SANE_NAME_BIT_DEPTH) != 8)
        scanner.set(SANE_NAME_BIT_DEPTH, 8);
    for (const char* name : {SANE_NAME_SCAN_RESOLUTION, SANE_NAME_SCAN_X_RESOLUTION, SANE_NAME_SCAN_Y_RESOLUTION})
        if (const SANE_Option_Descriptor* d = scanner.option(name)) {
            std::vector<double> list;
            scanner.range(d, &list);
            const auto nearest = std::min_element(list.begin(), list.end(), [&](double a, double b) { return std::abs(a - order.ppi) < std::abs(b - order.ppi); });
            scanner.set(name, nearest == list.end() ? order.ppi : *nearest);
        }
    // The far side first: some refuse a near side beyond it.
    const struct {
        const char* name;
        bool far;
        double mm;
    } sides[] = {{SANE_NAME_SCAN_BR_X, true, order.area.x1}, {SANE_NAME_SCAN_BR_Y, true, order.area.y1}, {SANE_NAME_SCAN_TL_X, false, order.area.x0}, {SANE_NAME_SCAN_TL_Y, false, order.area.y0}};
    for (const auto& side : sides)
        if (const SANE_Option_Descriptor* d = scanner.option(side.name)) {
            const auto [least, most] = scanner.range(d);
            const double mmAUnit = mmOf(scanner, side.name, 1);
            scanner.set(side.name, order.area.empty() ? (side.far ? most : least) : side.mm / mmAUnit);
        }
    const double ppi = scanner.number(SANE_NAME_SCAN_RESOLUTION).value_or(scanner.number(SANE_NAME_SCAN_X_RESOLUTION).value_or(order.ppi));
    const double down = scanner.number(SANE_NAME_SCAN_Y_RESOLUTION).value_or(ppi);
    if (std::abs(down / ppi - 1) > 0.001)
        throw Error(ErrorKind::Device, "the scanner takes {} pixels an inch across and {} down; choose a resolution it has both ways", plainNumber(ppi, 0), plainNumber(down, 0));
    return {read(scanner, work), ppi};
}

std::vector<ScannerFound> scanners()
{
    begin();
    const SANE_Device** list = nullptr;
    std::vector<ScannerFound> out;
    if (sane_get_devices(&list, SANE_FALSE) != SANE_STATUS_GOOD || !list)
        return out;
    for (; *list; ++list)
        out.push_back({(*list)->name, std::string((*list)->vendor) + " " + (*list)->model});
    return out;
}

ScannerFacts factsOf(const std::string& name)
{
    begin();
    const Scanner scanner(name);
    ScannerFacts out;
    for (const auto& [option, side] : {std::pair{SANE_NAME_SCAN_BR_X, &ScannerFacts::width}, {SANE_NAME_SCAN_BR_Y, &ScannerFacts::height}})
        if (const SANE_Option_Descriptor* d = scanner.option(option))
            out.*side = mmOf(scanner, option, scanner.range(d).second);
    const SANE_Option_Descriptor* d = scanner.option(SANE_NAME_SCAN_RESOLUTION);
    if (!d)
        d = scanner.option(SANE_NAME_SCAN_X_RESOLUTION);
    if (d)
        std::tie(out.least, out.most) = scanner.range(d, &out.ppis);
    out.colour = modeOf(scanner, true).has_value();
    out.grey = modeOf(scanner, false).has_value();
    return out;
}

} // namespace yokai
