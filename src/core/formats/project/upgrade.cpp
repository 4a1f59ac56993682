#include "formats/project/upgrade.h"

#include <utility>

namespace yokai::project {

namespace {

// What a line of format 1 and 2 said of its openings in two ways.
void oneOpenings(Json& line)
{
    const std::string openings = line.value("openings", "keep");
    const double over = line.value("openings_over_mm2", 4.0), notch = line.value("smallest_notch_mm2", 0.0);
    line.erase("smallest_notch_mm2");
    if (openings == "fill")
        line["openings"] = "none";
    else if (openings == "over" || notch > 0) {
        line["openings"] = "over";
        line["openings_over_mm2"] = openings == "over" ? std::max(over, notch) : notch;
    }
}

// Format 1 to 2, for all but the places by hand: those need the picture's size.
void fromFirst(Json& piece)
{
    Json& keep = piece.at("keep");
    Json papers = Json::array(), colours = Json::array();
    if (!keep.at("paper").is_null())
        papers.push_back({{"colour", keep.at("paper")}, {"at", nullptr}});
    if (keep.at("rule") == "colour")
        colours.push_back({{"colour", keep.at("colour")}, {"at", nullptr}});
    keep["papers"] = papers;
    keep["colours"] = colours;
    Json& cutLines = piece.at("cut_lines");
    for (Json& line : cutLines.at("lines"))
        for (const char* shared : {"tolerance", "corners", "join_gap", "round_inside", "smallest_notch_mm2"})
            line[shared] = cutLines.at(shared);
}

void fromSecond(Json& piece)
{
    Json& artwork = piece.at("artwork");
    artwork["picture"] = {{"entry", artwork.at("picture")}, {"file_name", artwork.at("file_name")}, {"page", artwork.value("page", 0)}};
    if (piece.at("copies").is_string())
        piece["copies"] = nullptr;
    Json lines = Json::array();
    for (Json line : piece.at("cut_lines").at("lines")) {
        oneOpenings(line);
        lines.push_back(std::move(line));
    }
    piece["layers"] = Json::array({{{"keep", piece.at("keep")}, {"cut_lines", lines}}});
}

// What is missing or no list the reader tells of.
template <class F> void eachOf(Json& json, const char* key, F visit)
{
    if (json.is_object() && json.contains(key) && json.at(key).is_array())
        for (Json& entry : json.at(key))
            visit(entry);
}

// Format 3: an area's outline was its corners, and what was simplified always the whole outline.
void fromThird(Json& edit)
{
    if (edit.at("kind") == "simplify")
        edit["to"] = edit.at("from");
    if (edit.at("kind") == "add" || edit.at("kind") == "take-away") {
        Json outline = Json::array();
        const Json corners = std::exchange(edit.at("shape"), Json::array());
        for (std::size_t k = 0; k <= corners.size() && !corners.empty(); ++k) {
            const Json& to = corners.at(k % corners.size());
            if (k > 0)
                for (const double share : {1.0 / 3, 2.0 / 3}) {
                    const Json& from = corners.at(k - 1);
                    Json handle = Json::array();
                    for (std::size_t axis = 0; axis < 2; ++axis)
                        handle.push_back(from.at(axis).get<double>() * (1 - share) + to.at(axis).get<double>() * share);
                    outline.push_back(std::move(handle));
                }
            outline.push_back(to);
        }
        edit["outlines"] = Json::array({outline});
    }
}

// Format 4: of the marks, the sheet itself said three things.
void fromFourth(Json& sheet)
{
    Json marks = {{"style", sheet.value("marks", Json("dots"))}};
    for (const auto& [before, now] : {std::pair("mark_inset", "inset"), std::pair("mark_diameter", "size")})
        if (sheet.contains(before))
            marks[now] = sheet.at(before);
    sheet["marks"] = std::move(marks);
}

} // namespace

void upgrade(Json& job, int version)
{
    if (version < 5 && job.is_object() && job.contains("sheet") && job.at("sheet").is_object())
        fromFourth(job.at("sheet"));
    if (version == 3)
        eachOf(job, "pieces", [](Json& piece) {
            eachOf(piece, "layers", [](Json& layer) {
                eachOf(layer, "cut_lines", [](Json& line) { eachOf(line, "edits", fromThird); });
            });
        });
    if (version >= 3)
        return;
    for (Json& piece : job.at("pieces")) {
        if (version < 2)
            fromFirst(piece);
        fromSecond(piece);
    }
    Json& sheet = job.at("sheet");
    sheet["media"] = {{"name", sheet.at("media")}, {"width", sheet.at("width")}, {"height", sheet.at("height")}};
    Json& handOff = job.at("hand_off");
    handOff["spots"] = {{"through", handOff.at("spot")}};
    Json& standIn = job.at("cut").at("stand_in");
    standIn["stretch_x"] = standIn.at("stretch").at(0);
    standIn["stretch_y"] = standIn.at("stretch").at(1);
    standIn["shift_x"] = standIn.at("shift").at(0);
    standIn["shift_y"] = standIn.at("shift").at(1);
}

} // namespace yokai::project
