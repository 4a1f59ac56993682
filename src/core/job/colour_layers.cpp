#include "job/colour_layers.h"

#include "job/derive_piece.h"
#include "job/steps/layers.h"
#include "job/steps/picture.h"
#include "keep/colour.h"
#include "layers/coverage.h"

#include <cmath>
#include <numbers>
#include <algorithm>
#include <set>

namespace yokai {

std::shared_ptr<const Split> splitOf(const Piece& piece, StepCache& cache, const Work& work)
{
    Milliseconds times;
    Run run(cache, times, work);
    const Made<Framed> framed = run(FrameIn{Later(SourceIn(piece.artwork)), piece.artwork.frameSpec()});
    return splitOf(piece, framed, piece.artwork.pxPerMm(), run).value;
}

bool isLayered(const Piece& piece)
{
    return std::any_of(piece.layers.begin(), piece.layers.end(), [](const Layer& l) { return l.ofColours.has_value(); });
}

std::optional<Rgba> stockOf(const Layer& layer)
{
    constexpr Rgba plain{205, 203, 198, 255}; // of a backing: no colour of the picture's
    if (!layer.ofColours)
        return std::nullopt;
    return layer.ofColours->stock                                                                    ? *layer.ofColours->stock
           : layer.ofColours->from == LayerFrom::Above || layer.ofColours->colours.empty() ? plain
                                                                                                     : layer.ofColours->colours.front();
}

std::string wordFor(Rgba colour)
{
    const Lab lab = labOf(colour);
    const double chroma = std::hypot(lab.a, lab.b);
    double hue = std::atan2(lab.b, lab.a) * 180 / std::numbers::pi;
    hue = hue < 0 ? hue + 360 : hue;
    // Lightness and hue at which one word gives way to the next, by eye.
    constexpr double grey = 9;
    if (lab.L < 18 && chroma < 2.5 * grey)
        return "black";
    if (lab.L > 85 && chroma < 2.5 * grey && hue > 60 && hue < 110)
        return chroma < grey ? "white" : "cream";
    if (chroma < grey)
        return lab.L > 90 ? "white" : lab.L > 70 ? "light grey" : lab.L > 40 ? "grey" : "dark grey";
    static constexpr std::pair<double, const char*> words[] = {{20, "pink"}, {48, "red"}, {78, "orange"}, {110, "yellow"}, {180, "green"},
                                                               {225, "turquoise"}, {295, "blue"}, {330, "purple"}, {360, "pink"}};
    std::string word;
    for (const auto& [to, name] : words)
        if (word.empty() && hue <= to)
            word = name;
    const bool dull = chroma < 45;
    if (word == "orange" && lab.L > 65 && dull)
        return "sand";
    if (word == "pink" && lab.L < 55)
        word = "red";
    if ((word == "orange" || word == "red" || word == "yellow") && lab.L < 50 && dull)
        return "brown";
    if (word == "red" && lab.L > 65)
        word = "pink";
    return lab.L > 80 && word != "yellow" ? "light " + word : lab.L < 35 && word != "red" ? "dark " + word : word;
}

std::string freeName(const std::vector<Layer>& layers, const std::string& word)
{
    std::string name = word;
    for (int n = 2; std::any_of(layers.begin(), layers.end(), [&](const Layer& l) { return l.name == name; }); ++n)
        name = word + " " + std::to_string(n);
    return name;
}

std::vector<Layer> colourLayers(const Split& split, const LayersWanted& wanted)
{
    std::set<int> dropped;
    for (const Rgba c : wanted.dropped) {
        const auto k = colourIn(split, c);
        if (!k)
            throw Error(ErrorKind::Usage, "the picture has no colour like {} to drop; its colours are in the report", hexOf(c));
        dropped.insert(*k);
    }
    std::vector<Layer> out;
    for (std::size_t k = 0; k < split.colours.size(); ++k) {
        if (dropped.contains(int(k)))
            continue;
        Layer layer;
        layer.name = freeName(out, wordFor(split.colours[k].colour));
        layer.ofColours.emplace();
        layer.ofColours->colours = {split.colours[k].colour};
        layer.ofColours->spread = wanted.spread;
        layer.keep.smallestPart = wanted.smallestPart;
        layer.lines = {wanted.line};
        out.push_back(std::move(layer));
    }
    if (out.empty())
        throw Error(ErrorKind::Usage, "all of the picture's colours are dropped; keep one at least");
    if (wanted.backing) {
        Layer layer;
        layer.name = "backing";
        layer.ofColours.emplace();
        layer.ofColours->from = LayerFrom::Above;
        layer.lines = {wanted.line};
        layer.lines[0].offset = *wanted.backing;
        layer.lines[0].openings = LineOpenings::None;
        out.insert(out.begin(), std::move(layer));
    }
    return out;
}

} // namespace yokai
