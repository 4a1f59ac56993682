#include "register/measured.h"

#include "base/error.h"

#include <nlohmann/json.hpp>

namespace yokai {

std::vector<MarkPair> readMeasured(const Bytes& bytes, const std::string& name)
{
    const auto fail = [&](const std::string& why) {
        return Error(ErrorKind::Input, "cannot read the marks in '{}': {}; write {\"marks\":[{\"design_mm\":[x,y],\"measured_mm\":[x,y]}]}", name, why);
    };
    try {
        const auto json = nlohmann::json::parse(bytes.begin(), bytes.end());
        std::vector<MarkPair> pairs;
        const auto point = [](const nlohmann::json& j) {
            if (!j.is_array() || j.size() != 2)
                throw std::invalid_argument("a position is not two numbers");
            return Point{j[0].get<double>(), j[1].get<double>()};
        };
        for (const auto& mark : json.at("marks"))
            pairs.push_back({point(mark.at("design_mm")), point(mark.at("measured_mm"))});
        if (pairs.empty())
            throw std::invalid_argument("there are none");
        return pairs;
    } catch (const nlohmann::json::exception& e) {
        std::string what = e.what();
        // "[json.exception.parse_error.101] parse error at line 1...": the part a person can use.
        if (const auto end = what.find("] "); end != std::string::npos)
            what.erase(0, end + 2);
        throw fail(what);
    } catch (const std::invalid_argument& e) {
        throw fail(e.what());
    }
}

} // namespace yokai
