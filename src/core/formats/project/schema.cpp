#include "formats/project/schema.h"

#include "formats/project/json_fields.h"
#include "formats/project/upgrade.h"
#include "job/job.h"

namespace yokai {

namespace {

using project::Json;

Json numbers(std::size_t count) { return {{"type", "array"}, {"items", {{"type", "number"}}}, {"minItems", count}, {"maxItems", count}}; }

class Describe {
public:
    explicit Describe(project::Lengths lengths = project::Lengths::Ticks) : lengths_(lengths) {}
    template <class T, class... Options> Json of(const Options&... options) const
    {
        Json out = plain<T>(options...);
        (limit<T>(out, options), ...);
        return out;
    }

private:
    template <class T, class... Options> Json plain(const Options&... options) const
    {
        if constexpr (std::is_same_v<T, Length>)
            return {{"type", lengths_ == project::Lengths::Mm ? "number" : "integer"}};
        else if constexpr (project::IsId<T>::value)
            return {{"type", "integer"}};
        else if constexpr (NamedEnum<T>) {
            Json names = Json::array();
            for (const auto& n : namesOf(T{}))
                names.push_back(n.name);
            return {{"enum", names}};
        } else if constexpr (std::is_same_v<T, bool>)
            return {{"type", "boolean"}};
        else if constexpr (std::is_integral_v<T>)
            return {{"type", "integer"}};
        else if constexpr (std::is_floating_point_v<T>)
            return {{"type", "number"}};
        else if constexpr (std::is_same_v<T, std::string>)
            return {{"type", "string"}};
        else if constexpr (std::is_same_v<T, Point>)
            return numbers(2);
        else if constexpr (std::is_same_v<T, Rect>)
            return numbers(4);
        else if constexpr (std::is_same_v<T, Rgba>)
            return {{"type", "array"}, {"items", {{"type", "integer"}, {"minimum", 0}, {"maximum", 255}}}, {"minItems", 3}, {"maxItems", 3}};
        else if constexpr (std::is_same_v<T, Picture>)
            return {{"type", "object"},
                    {"properties", {{"entry", {{"type", "string"}}}, {"file_name", {{"type", "string"}}}, {"page", {{"type", "integer"}, {"minimum", 0}}}}},
                    {"required", {"entry", "file_name"}}};
        else if constexpr (IsOptional<T>::value)
            return {{"anyOf", {of<typename T::value_type>(options...), Json{{"type", "null"}}}}};
        else if constexpr (IsVector<T>::value)
            return {{"type", "array"}, {"items", of<typename T::value_type>()}};
        else {
            Json properties = Json::object();
            const T value{};
            const auto visit = [&](const char* key, const auto& field, const auto&... given) {
                properties[key] = of<std::decay_t<decltype(field)>>(given...);
            };
            T::fields(value, visit);
            return {{"type", "object"}, {"properties", properties}};
        }
    }

    template <class T, class Option> void limit(Json& out, const Option& option) const
    {
        if constexpr (IsOptional<T>::value)
            return; // said of what it holds
        else if constexpr (requires { option.least; }) {
            if constexpr (std::is_same_v<T, Length>) {
                const auto figure = [&](Length l) { return lengths_ == project::Lengths::Mm ? Json(l.mm()) : Json(l.ticks()); };
                out["minimum"] = figure(option.least);
                out["maximum"] = figure(option.most);
            } else {
                out["minimum"] = option.least;
                out["maximum"] = option.most;
            }
        } else if constexpr (std::is_same_v<Option, AtMost> && IsVector<T>::value)
            out["maxItems"] = option.count;
        else if constexpr (std::is_same_v<Option, AtMost> && std::is_same_v<T, std::string>)
            out["maxLength"] = option.count; // in the file's bytes, of which there are no fewer
    }
    project::Lengths lengths_;
};

template <class T> std::string ownSchema(const char* title, const char* key)
{
    Json schema = {{"$schema", "https://json-schema.org/draft/2020-12/schema"},
                   {"title", title},
                   {"description", "Lengths are mm, speeds what is covered in a minute. A field that is not there has its usual value."}};
    Json body = Describe(project::Lengths::Mm).of<T>();
    Json properties = {{key, {{"const", 1}}}, {"length_unit", {{"const", "mm"}}}};
    properties.update(body["properties"]);
    body["properties"] = properties;
    body["required"] = {key, "name"};
    schema.update(body);
    return schema.dump(1) + "\n";
}

} // namespace

std::string jobSchema()
{
    Json schema = {{"$schema", "https://json-schema.org/draft/2020-12/schema"},
                   {"title", "A Yokai job: job.json in a .yokai file"},
                   {"description", "Lengths are whole ticks of 1/360000 mm; places [x, y], boxes [x0, y0, x1, y1], colours [red, green, blue]. A field that is not there has its usual value."}};
    Json body = Describe().of<Job>();
    Json properties = {{"yokai", {{"type", "integer"}, {"minimum", 1}, {"maximum", project::formatVersion}}}, {"length_unit", {{"const", "mm/360000"}}}};
    properties.update(body["properties"]);
    body["properties"] = properties;
    body["required"] = {"yokai"};
    schema.update(body);
    return schema.dump(1) + "\n";
}

std::string machineSchema() { return ownSchema<Machine>("A machine, as Yokai keeps it", "yokai_machine"); }
std::string materialSchema() { return ownSchema<Material>("A material, as Yokai keeps it", "yokai_material"); }

} // namespace yokai
