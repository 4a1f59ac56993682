#include "sheet/media.h"

#include "base/error.h"

#include <cctype>
#include <vector>

namespace yokai {

std::span<const Media> knownMedia()
{
    const auto mm = [](const char* name, int w, int h) { return Media{name, Length::um(w * 1000LL), Length::um(h * 1000LL)}; };
    const auto inches = [](const char* name, double w, double h) { return Media{name, Length::inches(w), Length::inches(h)}; };
    static const std::vector<Media> all = {
        mm("A4", 210, 297),   mm("A3", 297, 420),  mm("A2", 420, 594),    mm("A1", 594, 841),   mm("A0", 841, 1189), mm("A5", 148, 210), mm("A6", 105, 148),
        mm("B5", 176, 250),   mm("B4", 250, 353),  mm("B3", 353, 500),    mm("B2", 500, 707),   mm("B1", 707, 1000), mm("B0", 1000, 1414), mm("B6", 125, 176),
        inches("Letter", 8.5, 11), inches("Legal", 8.5, 14), inches("Tabloid", 11, 17), inches("ANSI C", 17, 22), inches("ANSI D", 22, 34), inches("ANSI E", 34, 44),
        inches("Mat 12 x 12 in", 12, 12), inches("Mat 12 x 24 in", 12, 24),
    };
    return all;
}

std::span<const Media> knownRolls()
{
    const auto roll = [](const char* name, double inches) { return Media{name, Length::inches(inches), Length::um(1'000'000)}; };
    static const std::vector<Media> all = {roll("Roll 12 in", 12), roll("Roll 15 in", 15), roll("Roll 24 in", 24), roll("Roll 30 in", 30),
                                           roll("Roll 36 in", 36), roll("Roll 42 in", 42), roll("Roll 54 in", 54), roll("Roll 64 in", 64)};
    return all;
}

Media mediaFrom(const std::string& text)
{
    const auto lower = [](std::string s) {
        for (char& c : s)
            c = char(std::tolower(static_cast<unsigned char>(c)));
        return s;
    };
    for (const Media& m : knownMedia())
        if (lower(m.name) == lower(text))
            return m;
    const auto fail = [&] { return Error(ErrorKind::Usage, "'" + text + "' is not a paper; use a name like A4 or Letter, or a size like 210x297mm"); };
    const std::size_t x = lower(text).find('x');
    if (x == std::string::npos || x == 0)
        throw fail();
    try {
        std::string first = text.substr(0, x), second = text.substr(x + 1);
        // "8x10in": the unit after the second counts for both.
        const auto bare = [](const std::string& s) { return s.find_first_not_of("0123456789., ") == std::string::npos; };
        if (bare(first))
            if (const std::size_t unitAt = second.find_last_of("0123456789"); unitAt != std::string::npos)
                first += second.substr(unitAt + 1);
        const Media m{"custom", parseLength(first), parseLength(second)};
        if (m.width < Length::mm(10) || m.height < Length::mm(10) || m.width > Length::mm(5000) || m.height > Length::mm(50'000))
            throw Error(ErrorKind::Usage, "the paper '{}' is out of range; use 10 mm to 5 m across and up to 50 m long", text);
        return m;
    } catch (const Error& e) {
        if (std::string(e.what()).starts_with("the paper"))
            throw;
        throw fail();
    }
}

} // namespace yokai
