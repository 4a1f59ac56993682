#include "values.h"

#include <charconv>

namespace yokai::batch {

double plainOption(const std::string& text, const char* option, double least, double most)
{
    double value = 0;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (ec != std::errc() || end != text.data() + text.size() || !(value >= least && value <= most))
        throw Error(ErrorKind::Usage, "{} '{}' is not a number from {} to {}", option, text, plainNumber(least, 3), plainNumber(most, 3));
    return value;
}

namespace {

template <class Parse> auto parsed(Parse parse, const std::string& text, const char* option)
{
    try {
        return parse(text);
    } catch (const Error& e) {
        throw Error(ErrorKind::Usage, "{}: {}", option, e.what());
    }
}

} // namespace

Length lengthOption(const std::string& text, const char* option)
{
    return parsed([](const std::string& t) { return parseLength(t); }, text, option);
}

double areaOption(const std::string& text, const char* option)
{
    return parsed([](const std::string& t) { return parseArea(t); }, text, option);
}

} // namespace yokai::batch
