#include "apart.h"

#include "base/error.h"
#include "base/file.h"
#include "formats/order/order.h"

#include <filesystem>

namespace yokai::batch {

namespace fs = std::filesystem;

namespace {

// By whatever name: through a link, another folder's way, or a second name of the same file.
bool isSame(const std::string& a, const std::string& b)
{
    std::error_code none;
    if (fs::equivalent(a, b, none) && !none)
        return true;
    const fs::path first = fs::weakly_canonical(a, none), second = fs::weakly_canonical(b, none);
    return !none && first == second;
}

} // namespace

std::vector<std::string> inputsOf(const Options& o)
{
    std::vector<std::string> out = o.inputs;
    for (const std::string& file : {o.order, o.recipe, o.measured, o.marksJob, o.marksOf, o.machine, o.material, o.makerLogo})
        if (!file.empty())
            out.push_back(file);
    if (o.order.empty())
        return out;
    try {
        const Bytes list = readFile(o.order);
        for (const OrderRow& row : readOrder({reinterpret_cast<const char*>(list.data()), list.size()}, o.order))
            for (const std::string& file : {row.file, row.recipe})
                if (!file.empty())
                    out.push_back((fs::path(o.order).parent_path() / file).string());
    } catch (const Error&) { // said where the list is opened
    }
    return out;
}

void requireApart(const Options& o)
{
    std::vector<std::string> outputs;
    for (const std::string& file : o.out)
        if (!file.ends_with('/'))
            outputs.push_back(file);
    for (const std::string& file : {o.print, o.cut, o.proof, o.flatten, o.report == "-" ? std::string() : o.report})
        if (!file.empty())
            outputs.push_back(file);
    requireApart(outputs, inputsOf(o));
}

void requireApart(const std::vector<std::string>& outputs, const std::vector<std::string>& inputs)
{
    for (std::size_t k = 0; k < outputs.size(); ++k) {
        for (const std::string& input : inputs)
            if (isSame(outputs[k], input))
                throw Error(ErrorKind::Usage, "'{}' is read and would be written over; give the output another name", outputs[k]);
        for (std::size_t other = 0; other < k; ++other)
            if (isSame(outputs[k], outputs[other]))
                throw Error(ErrorKind::Usage, "'{}' would be written twice; give each output its own name", outputs[k]);
    }
}

} // namespace yokai::batch
