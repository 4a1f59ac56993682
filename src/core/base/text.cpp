#include "base/text.h"

#include <cstdint>

namespace yokai {

namespace {

// The length of the well-formed character at the start, or 0.
std::size_t wellFormed(std::string_view s)
{
    const auto at = [&](std::size_t i) { return i < s.size() ? static_cast<unsigned char>(s[i]) : 0u; };
    const unsigned lead = at(0);
    if (lead < 0x80)
        return 1;
    const std::size_t length = lead >= 0xc2 && lead <= 0xdf ? 2 : lead >= 0xe0 && lead <= 0xef ? 3 : lead >= 0xf0 && lead <= 0xf4 ? 4 : 0;
    if (length == 0)
        return 0;
    for (std::size_t i = 1; i < length; ++i)
        if ((at(i) & 0xc0) != 0x80)
            return 0;
    // No overlong forms, no surrogates, nothing past U+10FFFF; XML has no U+FFFE and U+FFFF.
    const unsigned second = at(1);
    if ((lead == 0xe0 && second < 0xa0) || (lead == 0xed && second > 0x9f) || (lead == 0xf0 && second < 0x90) || (lead == 0xf4 && second > 0x8f))
        return 0;
    if (lead == 0xef && second == 0xbf && at(2) >= 0xbe)
        return 0;
    return length;
}

} // namespace

std::string cleanText(std::string_view text)
{
    std::string out;
    out.reserve(text.size());
    while (!text.empty()) {
        const std::size_t n = wellFormed(text);
        const unsigned char c = static_cast<unsigned char>(text[0]);
        if (n == 0)
            out += "\xEF\xBF\xBD";
        else if (n > 1 || c == '\t' || c == '\n' || c == '\r' || (c >= 0x20 && c != 0x7f))
            out += text.substr(0, n);
        text.remove_prefix(n == 0 ? 1 : n);
    }
    return out;
}

std::string xmlText(const std::string& text)
{
    std::string out;
    for (const char c : cleanText(text))
        switch (c) {
        case '&':
            out += "&amp;";
            break;
        case '<':
            out += "&lt;";
            break;
        case '>':
            out += "&gt;";
            break;
        case '"':
            out += "&quot;";
            break;
        default:
            out += c;
        }
    return out;
}

} // namespace yokai
