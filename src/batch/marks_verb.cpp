// Where a printed sheet's marks are in a picture of it.

#include "artwork/artwork.h"
#include "base/file.h"
#include "outputs.h"
#include "register/find_marks.h"
#include "verbs.h"
#include "values.h"

#include <iostream>

namespace yokai::batch {

namespace {

struct Design {
    std::vector<std::vector<Mark>> tries; // the same places, as they may look
    double width = 0, height = 0;
};

Design designOfJob(const std::string& path)
{
    const Job job = openProject(path);
    StepCache cache;
    const Derived d = derive(job, cache, {}, Want::Lines);
    // Marks are looked for as they were printed.
    const Drawing sheet = drawSheet(job, d, 0, Content::Cut);
    return {{sheet.marks}, sheet.width, sheet.height};
}

// A report says where they are and, if it is of ours, what they look like.
Design designOfReport(const std::string& path)
{
    const auto fail = [&](const std::string& why) {
        return Error(ErrorKind::Input, "cannot read the marks in '{}': {}; give the report of a sheet", path, why);
    };
    try {
        const Bytes bytes = readFile(path);
        const auto json = nlohmann::json::parse(bytes.begin(), bytes.end());
        const auto& sheet = json.contains("sheet") ? json.at("sheet") : json.at("sheets").at(0);
        Design out;
        out.width = sheet.at("size_mm").at(0).get<double>();
        out.height = sheet.at("size_mm").at(1).get<double>();
        std::vector<Mark> marks;
        for (const auto& at : sheet.at("marks_mm"))
            marks.push_back({{at.at(0).get<double>(), out.height - at.at(1).get<double>()}, 5});
        if (marks.empty())
            throw fail("its sheet has none");
        std::vector<std::string> styles = {"dots", "crosses", "brackets"};
        std::vector<double> sizes = {5, 4, 6, 3, 8, 10};
        double weight = 0.5;
        if (sheet.contains("marks")) {
            styles = {sheet.at("marks").at("style").get<std::string>()};
            sizes = {sheet.at("marks").at("size_mm").get<double>()};
            weight = sheet.at("marks").value("weight_mm", weight);
        }
        for (const std::string& style : styles)
            for (const double size : sizes) {
                std::vector<Mark> look = marks;
                for (std::size_t k = 0; k < look.size(); ++k) {
                    Mark& m = look[k];
                    m.style = fromName<MarkStyle>(style).value_or(MarkStyle::Dots);
                    m.diameter = size;
                    m.weight = weight;
                    m.inwards = {m.centre.x < out.width / 2 ? 1.0 : -1.0, m.centre.y < out.height / 2 ? 1.0 : -1.0};
                    // The one that tells the way up has no corner of the sheet to sit in.
                    const double in = std::min({marks[0].centre.x, marks[0].centre.y}) * 1.5;
                    const bool inside = std::min(m.centre.x, out.width - m.centre.x) > in && std::min(m.centre.y, out.height - m.centre.y) > in;
                    if (m.style == MarkStyle::Brackets && inside)
                        m.style = MarkStyle::Crosses;
                }
                out.tries.push_back(std::move(look));
            }
        return out;
    } catch (const nlohmann::json::exception& e) {
        throw fail(e.what());
    }
}

FoundMarks found(const Rgba8& picture, const Design& design, std::size_t& which)
{
    std::optional<Error> first;
    for (which = 0; which < design.tries.size(); ++which)
        try {
            return findMarks(picture, design.tries[which]);
        } catch (const Error& e) {
            if (!first)
                first = e;
        }
    throw *first;
}

Json at(Point p) { return Json::array({std::round(p.x * 1e6) / 1e6, std::round(p.y * 1e6) / 1e6}); }

// A scan at its true size says where the marks are on its glass; a photo only how they lie to each other: then they are told as on the
// sheet taken flat out of it.
bool isAtScale(const FoundMarks& f, const std::vector<Mark>& design, double ppi)
{
    std::vector<MarkPair> pairs;
    for (std::size_t k = 0; k < design.size(); ++k)
        if (f.px[k])
            pairs.push_back({design[k].centre, *f.px[k] * (25.4 / ppi)});
    constexpr double flat = 1; // mm: what a sheet that lies on glass keeps to, with what printers stretch
    const Homography map = leastSquares(pairs, FitModel::Scaled);
    if (std::abs(std::sqrt(std::abs(map.affine.det())) - 1) > 0.03)
        return false;
    return std::all_of(pairs.begin(), pairs.end(), [&](const MarkPair& p) { return distance(map(p.design), p.measured) < flat; });
}

Json loosely(const Rgba8& picture, double ppi)
{
    Json out = Json::array();
    for (const LooseMark& m : likelyMarks(picture)) {
        const Point up{m.px.x, picture.height() - m.px.y};
        out.push_back({{"style", yokai::name(m.style)}, {"measured_mm", at(up * (25.4 / ppi))}, {"px", at(m.px)}, {"size_px", m.size}});
    }
    if (out.empty())
        throw Error(ErrorKind::Input, "no marks are seen in the picture; take it from above in even light, or say which sheet it is with --job");
    return out;
}

} // namespace

int marks(const Options& o)
{
    if (o.report.empty() && o.flatten.empty())
        throw Error(ErrorKind::Usage, "nothing to write; add --report - or --flatten FILE.png");
    if (!o.marksJob.empty() && !o.marksOf.empty())
        throw Error(ErrorKind::Usage, "give either --job or --marks-of, not both; each says where the marks were printed");
    const double begin = now();
    const Picture file = openPicture(o.inputs.front());
    const SharedRgba picture = decodePicture(file);
    const double ppi = o.ppi.empty() ? file.info.ppi : plainOption(o.ppi, "--ppi", 10, 10'000);
    Json report;
    report["picture"] = {{"px", {picture->width(), picture->height()}},
                         {"ppi", ppi},
                         {"ppi_from", !o.ppi.empty()                         ? "option"
                                      : file.info.ppiFrom == PpiSource::File ? "file"
                                                                             : "assumed"}};
    if (o.marksJob.empty() && o.marksOf.empty()) {
        if (!o.flatten.empty())
            throw Error(ErrorKind::Usage, "--flatten needs to know the sheet; add --job JOB.yokai or --marks-of REPORT.json");
        report["marks"] = loosely(*picture, ppi);
        writeReport(report, o.report);
        return 0;
    }
    const Design design = o.marksJob.empty() ? designOfReport(o.marksOf) : designOfJob(o.marksJob);
    std::size_t which = 0;
    const FoundMarks f = found(*picture, design, which);
    const std::vector<Mark>& looked = design.tries[which];
    const bool scan = isAtScale(f, looked, ppi);
    report["measured_from"] = scan ? "resolution" : "straightened";
    report["sheet"] = {{"size_mm", {design.width, design.height}}};
    report["marks"] = Json::array();
    for (std::size_t k = 0; k < looked.size(); ++k) {
        if (!f.px[k])
            continue;
        const Point flat = f.toDesign(*f.px[k]);
        const Point measured = scan ? Point{f.px[k]->x, picture->height() - f.px[k]->y} * (25.4 / ppi) : Point{flat.x, design.height - flat.y};
        report["marks"].push_back({{"mark", k + 1},
                                   {"design_mm", at({looked[k].centre.x, design.height - looked[k].centre.y})},
                                   {"measured_mm", at(measured)},
                                   {"px", at(*f.px[k])},
                                   {"residual_mm", std::round(f.residuals[k] * 1e6) / 1e6}});
    }
    report["px_per_mm"] = f.pxPerMm;
    report["lens_bulge"] = f.lens.bulge;
    if (!o.flatten.empty()) {
        // As fine as the picture has it, in whole dots an inch.
        const double flatPpi = std::clamp(std::round(f.pxPerMm * 25.4), 36.0, 1200.0);
        writeFile(o.flatten, encodePng(flattened(*picture, f, design.width, design.height, flatPpi / 25.4), {}, flatPpi));
        report["flattened_ppi"] = flatPpi;
    }
    report["timing_ms"] = {{"total", now() - begin}};
    if (!o.report.empty())
        writeReport(report, o.report);
    return 0;
}

} // namespace yokai::batch
