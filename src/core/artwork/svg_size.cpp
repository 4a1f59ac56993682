#include "artwork/svg_size.h"

#include <pugixml.hpp>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <map>
#include <string>

namespace yokai {

std::optional<double> svgLength(std::string_view text, double unitsAnInch)
{
    double value = 0;
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.front())))
        text.remove_prefix(1);
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc() || !std::isfinite(value))
        return std::nullopt;
    std::string_view unit(end, std::size_t(text.data() + text.size() - end));
    while (!unit.empty() && std::isspace(static_cast<unsigned char>(unit.back())))
        unit.remove_suffix(1);
    static const std::map<std::string_view, double> inMm = {{"mm", 1}, {"cm", 10}, {"in", 25.4}, {"pt", 25.4 / 72}, {"pc", 25.4 / 6}, {"m", 1000}};
    if (unit.empty() || unit == "px")
        return value * 25.4 / unitsAnInch;
    const auto found = inMm.find(unit);
    return found == inMm.end() ? std::nullopt : std::optional(value * found->second);
}

bool looksLikeSvg(const Bytes& bytes)
{
    constexpr std::size_t farthest = 4096; // comments and a document type may come first
    const std::string_view head(reinterpret_cast<const char*>(bytes.data()), std::min(bytes.size(), farthest));
    const std::size_t first = head.find_first_not_of("\xef\xbb\xbf \t\r\n");
    if (first == std::string_view::npos || head[first] != '<')
        return false;
    for (std::size_t at = head.find("svg"); at != std::string_view::npos; at = head.find("svg", at + 1))
        if (at > 0 && (head[at - 1] == '<' || head[at - 1] == ':'))
            return true;
    return false;
}

std::optional<SvgSize> svgSize(const Bytes& bytes, double unitsAnInch)
{
    pugi::xml_document document;
    if (!document.load_buffer(bytes.data(), bytes.size(), pugi::parse_default))
        return std::nullopt;
    const pugi::xml_node root = document.document_element();
    if (std::string_view(root.name()) != "svg" && !std::string_view(root.name()).ends_with(":svg"))
        return std::nullopt;
    const std::string widthText = root.attribute("width").value(), heightText = root.attribute("height").value();
    auto width = svgLength(widthText, unitsAnInch), height = svgLength(heightText, unitsAnInch);
    const auto physical = [](const std::string& text) {
        return text.find_first_not_of("0123456789.+-eE ") != std::string::npos && text.find("px") == std::string::npos && text.find('%') == std::string::npos;
    };
    std::array<double, 4> box{};
    std::string boxText = root.attribute("viewBox").value();
    std::replace(boxText.begin(), boxText.end(), ',', ' ');
    const char *at = boxText.data(), *end = boxText.data() + boxText.size();
    for (double& v : box) {
        while (at < end && std::isspace(static_cast<unsigned char>(*at)))
            ++at;
        const auto [stop, error] = std::from_chars(at, end, v);
        if (error != std::errc())
            break;
        at = stop;
    }
    const bool hasBox = box[2] > 0 && box[3] > 0 && std::isfinite(box[2]) && std::isfinite(box[3]);
    // One side says the other; none says both.
    if (hasBox && !width && !height) {
        width = box[2] * 25.4 / unitsAnInch;
        height = box[3] * 25.4 / unitsAnInch;
    } else if (hasBox && width && !height)
        height = *width * box[3] / box[2];
    else if (hasBox && height && !width)
        width = *height * box[2] / box[3];
    if (!width || !height || !(*width > 0 && *height > 0))
        return std::nullopt;
    return SvgSize{*width, *height, physical(widthText) && physical(heightText)};
}

} // namespace yokai
