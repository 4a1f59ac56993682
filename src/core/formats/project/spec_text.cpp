#include "formats/project/spec_text.h"

#include "formats/project/json_fields.h"

namespace yokai {

template <class T> std::string specText(const T& spec)
{
    const project::Writer::Entry none = [](const Picture&) { return std::string(); };
    return project::Writer(none).json(spec).dump(-1, ' ', false, project::Json::error_handler_t::replace);
}

template <class T> std::optional<T> specFromText(const std::string& text)
{
    try {
        const project::Reader::Open none = [](const std::string&, const std::string&, int) { return Picture{}; };
        T spec;
        project::Reader(none).read(project::Json::parse(text), spec, "");
        return spec;
    } catch (const nlohmann::json::exception&) {
        return std::nullopt;
    } catch (const project::BadField&) {
        return std::nullopt;
    }
}

template std::string specText(const Media&);
template std::string specText(const MarkSpec&);
template std::string specText(const SpotNames&);
template std::string specText(const HandOffSpec&);
template std::optional<Media> specFromText(const std::string&);
template std::optional<MarkSpec> specFromText(const std::string&);
template std::optional<SpotNames> specFromText(const std::string&);
template std::optional<HandOffSpec> specFromText(const std::string&);

} // namespace yokai
