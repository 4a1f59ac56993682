#include "artwork/svg_size.h"
#include "base/error.h"
#include "base/text.h"
#include "formats/cut_file.h"
#include "formats/svg/path_data.h"

#include <pugixml.hpp>

#include <charconv>
#include <cstring>
#include <map>
#include <set>

namespace yokai {

namespace {

std::vector<double> numbersIn(std::string_view text)
{
    std::vector<double> out;
    for (std::size_t i = 0; i < text.size();) {
        double value = 0;
        if (text[i] == '+')
            ++i;
        const auto [end, error] = std::from_chars(text.data() + i, text.data() + text.size(), value);
        if (error != std::errc()) {
            ++i;
            continue;
        }
        if (std::isfinite(value))
            out.push_back(value);
        i = std::size_t(end - text.data());
    }
    return out;
}

Affine svgTransform(std::string_view text)
{
    Affine out;
    for (std::size_t open = text.find('('); open != std::string_view::npos; open = text.find('(')) {
        const std::size_t close = text.find(')', open);
        if (close == std::string_view::npos)
            break;
        std::string name;
        for (const char c : text.substr(0, open))
            if (std::isalpha(static_cast<unsigned char>(c)))
                name += c;
        std::vector<double> v = numbersIn(text.substr(open + 1, close - open - 1));
        const std::size_t given = v.size();
        v.resize(6, 0);
        constexpr double radian = std::numbers::pi / 180;
        if (name == "matrix" && given == 6)
            out = out * Affine{v[0], v[1], v[2], v[3], v[4], v[5]};
        else if (name == "translate")
            out = out * Affine::move(v[0], v[1]);
        else if (name == "scale")
            out = out * Affine::scale(v[0], given > 1 ? v[1] : v[0]);
        else if (name == "rotate")
            out = out * Affine::move(v[1], v[2]) * Affine::turn(v[0] * radian) * Affine::move(-v[1], -v[2]);
        else if (name == "skewX")
            out = out * Affine{1, 0, std::tan(v[0] * radian), 1, 0, 0};
        else if (name == "skewY")
            out = out * Affine{1, std::tan(v[0] * radian), 0, 1, 0, 0};
        text.remove_prefix(close + 1);
    }
    return out;
}

// What a shape has from the groups it lies in.
struct SvgState {
    Affine toMm;
    std::optional<LineKind> kind; // by a group's name
    std::string stroke;
    bool marks = false, skipped = false;
};

class SvgReader {
public:
    SvgReader(CutFile& out, const Work& work) : out_(out), work_(work) {}
    void read(const pugi::xml_document& document, const pugi::xml_node& root, const Affine& toMm)
    {
        index(document);
        walk(root, {toMm, {}, {}, false, false}, 0);
        for (const std::string& name : left_)
            out_.leftOut.push_back(name);
    }

private:
    void index(const pugi::xml_node& node)
    {
        for (const pugi::xml_node& child : node.children()) {
            if (const char* id = child.attribute("id").value(); *id)
                byId_.emplace(id, child);
            index(child);
        }
    }
    // An attribute, or the property of that name in the style.
    static std::string property(const pugi::xml_node& node, const char* name)
    {
        std::string_view style = node.attribute("style").value();
        while (!style.empty()) {
            const std::size_t end = std::min(style.find(';'), style.size());
            const std::string_view one = style.substr(0, end);
            if (const std::size_t colon = one.find(':'); colon != std::string_view::npos) {
                const auto trimmed = [](std::string_view t) {
                    while (!t.empty() && std::isspace(static_cast<unsigned char>(t.front())))
                        t.remove_prefix(1);
                    while (!t.empty() && std::isspace(static_cast<unsigned char>(t.back())))
                        t.remove_suffix(1);
                    return t;
                };
                if (trimmed(one.substr(0, colon)) == name)
                    return std::string(trimmed(one.substr(colon + 1)));
            }
            style.remove_prefix(std::min(end + 1, style.size()));
        }
        return node.attribute(name).value();
    }
    static bool named(const std::string& text, const char* name)
    {
        return text.size() >= std::strlen(name) &&
               std::equal(name, name + std::strlen(name), text.begin(),
                          [](char a, char b) { return std::tolower(static_cast<unsigned char>(a)) == std::tolower(static_cast<unsigned char>(b)); }) &&
               (text.size() == std::strlen(name) || !std::isalnum(static_cast<unsigned char>(text[std::strlen(name)])));
    }
    SvgState within(const pugi::xml_node& node, SvgState state) const
    {
        state.toMm = state.toMm * svgTransform(node.attribute("transform").value());
        if (const std::string stroke = property(node, "stroke"); !stroke.empty())
            state.stroke = stroke;
        if (property(node, "display") == "none" || property(node, "visibility") == "hidden")
            state.skipped = true;
        for (const char* attribute : {"id", "label", "inkscape:label", "class"}) {
            const std::string text = node.attribute(attribute).value();
            if (text.empty())
                continue;
            for (const LineKindFacts& kind : lineKindTable)
                if (named(text, kind.svgGroup) || named(text, kind.dxfLayer))
                    state.kind = kind.kind;
            if (named(text, "marks"))
                state.marks = true;
            if (named(text, "engrave")) // no line to be cut
                state.skipped = true;
        }
        return state;
    }
    void walk(const pugi::xml_node& node, const SvgState& state, int depth)
    {
        constexpr int deepest = 100; // groups within groups, and uses of uses
        if (depth > deepest)
            return;
        for (const pugi::xml_node& child : node.children()) {
            work_.check();
            if (child.type() != pugi::node_element)
                continue;
            std::string name = child.name();
            if (const std::size_t colon = name.find(':'); colon != std::string::npos)
                name = name.substr(colon + 1);
            const SvgState own = within(child, state);
            if (own.skipped)
                continue;
            if (name == "g" || name == "a" || name == "switch" || name == "svg")
                walk(child, own, depth + 1);
            else if (name == "use")
                use(child, own, depth + 1);
            else if (name == "text" || name == "image" || name == "foreignObject")
                left_.insert(name);
            else
                add(shapeOf(child, name), own);
        }
    }
    void use(const pugi::xml_node& node, SvgState state, int depth)
    {
        std::string target = node.attribute("href").value();
        if (target.empty())
            target = node.attribute("xlink:href").value();
        const auto found = target.size() > 1 && target[0] == '#' ? byId_.find(target.substr(1)) : byId_.end();
        if (found == byId_.end() || ++uses_ > 100'000)
            return;
        state.toMm = state.toMm * Affine::move(node.attribute("x").as_double(), node.attribute("y").as_double());
        const pugi::xml_node& used = found->second;
        const std::string name = used.name();
        const SvgState own = within(used, state);
        if (name == "g" || name == "symbol")
            walk(used, own, depth + 1);
        else if (name == "image" || name == "text")
            left_.insert(name);
        else
            add(shapeOf(used, name), own);
    }
    static Paths shapeOf(const pugi::xml_node& node, const std::string& name)
    {
        const auto of = [&](const char* attribute) { return svgLength(node.attribute(attribute).value(), 25.4).value_or(0); }; // in user units
        if (name == "path")
            return svg::pathData(node.attribute("d").value());
        if (name == "line" || name == "polyline" || name == "polygon") {
            std::vector<double> v = name == "line" ? std::vector<double>{of("x1"), of("y1"), of("x2"), of("y2")} : numbersIn(node.attribute("points").value());
            if (v.size() < 4)
                return {};
            Path path;
            path.start = {v[0], v[1]};
            path.closed = name == "polygon";
            for (std::size_t i = 2; i + 1 < v.size(); i += 2)
                path.lineTo({v[i], v[i + 1]});
            if (path.closed && distance(path.segments.back().end, path.start) > 0)
                path.lineTo(path.start);
            return {path};
        }
        if (name == "circle" || name == "ellipse") {
            const double rx = name == "circle" ? of("r") : of("rx"), ry = name == "circle" ? rx : of("ry");
            const Point c{of("cx"), of("cy")};
            if (!(rx > 0 && ry > 0))
                return {};
            Path path;
            path.start = {c.x + rx, c.y};
            svg::arcTo(path, path.start, rx, ry, 0, false, true, {c.x - rx, c.y});
            svg::arcTo(path, {c.x - rx, c.y}, rx, ry, 0, false, true, path.start);
            path.corners.assign(path.segments.size(), false);
            return {path};
        }
        return name == "rect" ? rectOf(node, of("x"), of("y"), of("width"), of("height"), of("rx"), of("ry")) : Paths{};
    }
    static Paths rectOf(const pugi::xml_node& node, double x, double y, double w, double h, double rx, double ry)
    {
        if (!(w > 0 && h > 0))
            return {};
        if (!node.attribute("rx"))
            rx = ry;
        if (!node.attribute("ry"))
            ry = rx;
        rx = std::min(rx, w / 2);
        ry = std::min(ry, h / 2);
        Path path;
        path.start = {x + rx, y};
        const auto side = [&](Point to) {
            const Point from = path.segments.empty() ? path.start : path.segments.back().end;
            if (distance(from, to) > 0)
                path.lineTo(to, rx == 0);
        };
        const auto corner = [&](Point to) {
            if (rx > 0 && ry > 0)
                svg::arcTo(path, path.segments.back().end, rx, ry, 0, false, true, to);
        };
        side({x + w - rx, y});
        corner({x + w, y + ry});
        side({x + w, y + h - ry});
        corner({x + w - rx, y + h});
        side({x + rx, y + h});
        corner({x, y + h - ry});
        side({x, y + ry});
        corner(path.start);
        return {path};
    }
    void add(Paths paths, const SvgState& state)
    {
        for (Path& own : paths) {
            if (own.segments.empty())
                continue;
            Path path = transformed(own, state.toMm);
            if (state.marks) {
                addMark(out_.drawing.marks, path);
                continue;
            }
            CutItem item;
            item.kind = state.kind ? *state.kind : kindOfColour(state.stroke);
            item.path = std::move(path);
            out_.drawing.cuts.push_back(std::move(item));
        }
    }
    static LineKind kindOfColour(const std::string& stroke)
    {
        for (const LineKindFacts& kind : lineKindTable)
            if (named(stroke, kind.colour))
                return kind.kind;
        return LineKind::Through;
    }
    CutFile& out_;
    const Work& work_;
    std::map<std::string, pugi::xml_node> byId_;
    std::set<std::string> left_;
    int uses_ = 0;
};

} // namespace

CutFile readSvg(const Bytes& bytes, const std::string& name, double unitsAnInch, const Work& work)
{
    CutFile out;
    pugi::xml_document document;
    // No entity of its own and no file beside it is read: pugixml knows neither.
    const pugi::xml_parse_result parsed = document.load_buffer(bytes.data(), bytes.size(), pugi::parse_default);
    if (!parsed)
        throw Error(ErrorKind::Input, "cannot read '{}': {}; save it again as SVG", name, cleanText(parsed.description()));
    pugi::xml_node root = document.document_element();
    if (std::string_view(root.name()) != "svg" && !std::string_view(root.name()).ends_with(":svg"))
        throw Error(ErrorKind::Input, "'{}' is no SVG; save it again as SVG", name);
    const auto box = numbersIn(root.attribute("viewBox").value());
    const bool hasBox = box.size() == 4 && box[2] > 0 && box[3] > 0;
    const std::string widthText = root.attribute("width").value(), heightText = root.attribute("height").value();
    const auto physical = [](const std::string& text) {
        return !text.empty() && text.find_first_not_of("0123456789.+-eE ") != std::string::npos && text.find("px") == std::string::npos &&
               text.find('%') == std::string::npos;
    };
    out.sizeFromFile = physical(widthText) && physical(heightText);
    out.unitsAnInch = unitsAnInch;
    auto width = svgLength(widthText, unitsAnInch), height = svgLength(heightText, unitsAnInch);
    if (hasBox && (!width || !height)) {
        width = box[2] * 25.4 / unitsAnInch;
        height = box[3] * 25.4 / unitsAnInch;
    }
    Affine toMm = Affine::scale(25.4 / unitsAnInch, 25.4 / unitsAnInch);
    if (hasBox) {
        // The box in the middle of the sheet, as large as it fits, unless it may be stretched (preserveAspectRatio).
        double sx = *width / box[2], sy = *height / box[3];
        if (std::string_view(root.attribute("preserveAspectRatio").value()).find("none") == std::string_view::npos)
            sx = sy = std::min(sx, sy);
        toMm = Affine::move((*width - box[2] * sx) / 2, (*height - box[3] * sy) / 2) * Affine::scale(sx, sy) * Affine::move(-box[0], -box[1]);
    }
    SvgReader(out, work).read(document, root, toMm);
    Rect all = Rect::nothing();
    for (const CutItem& item : out.drawing.cuts)
        all.add(bounds(item.path));
    out.drawing.width = width && *width > 0 ? *width : std::max(1.0, all.x1);
    out.drawing.height = height && *height > 0 ? *height : std::max(1.0, all.y1);
    keepWithinReason(out, name);
    return out;
}

} // namespace yokai
