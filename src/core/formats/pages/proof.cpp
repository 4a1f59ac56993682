#include "formats/pages/proof.h"

#include "base/error.h"
#include "formats/drawing.h"
#include "formats/pages/book.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace yokai {

namespace {

using pages::Book;
using pages::Colour;
using pages::lineFrom;
using pages::Pen;
using pages::Type;

// An A4 page, in mm: a column of 180 between margins of 15.
constexpr double pageWidth = 210, pageHeight = 297, margin = 15, right = pageWidth - margin, bottom = pageHeight - margin, between = 8;
constexpr Colour ink{0.11, 0.12, 0.25}, soft{0.38, 0.39, 0.47}, hair{0.8, 0.79, 0.76}, paper{0.98, 0.975, 0.96};
constexpr Type heading{5.6, true, ink}, strong{3.5, true, ink}, plain{3.2, false, ink}, small{2.7, false, soft};

// As on the screen: kinds differ by colour and by pattern.
Pen penOf(LineKind kind)
{
    const Colour colour = pages::colourOf(facts(kind).colour);
    switch (kind) {
    case LineKind::Through:
        return {colour, 0.4, {}};
    case LineKind::Kiss:
        return {colour, 0.22, {}};
    case LineKind::Perforate:
        return {colour, 0.35, {1.6, 0.9}};
    case LineKind::Crease:
        return {colour, 0.4, {0.4, 0.8}};
    }
    return {};
}

class Proof {
public:
    Proof(const Job& job, const Derived& derived, const ProofFacts& facts, const Work& work) : job_(job), derived_(derived), facts_(facts), work_(work), book_(pageWidth, pageHeight, job.name) {}
    Bytes make();

private:
    std::string say(const char* words) const { return facts_.say(words); }
    std::string length(double mm) const { return formatMm(mm, facts_.unit); }
    std::string size(double width, double height) const { return formatMm(width, facts_.unit, false) + " × " + length(height); }
    double header();
    void piece(std::size_t index, const Rect& box);
    void legend();
    void answer(double top);
    std::vector<std::size_t> shown() const;

    const Job& job_;
    const Derived& derived_;
    const ProofFacts& facts_;
    const Work& work_;
    Book book_;
    std::map<LineKind, double> lengths_; // of all copies
};

std::vector<std::size_t> Proof::shown() const
{
    std::vector<std::size_t> out;
    for (std::size_t k = 0; k < job_.pieces.size(); ++k)
        if (derived_.pieces[k].whole())
            out.push_back(k);
    return out;
}

// Whose work, what, and when; where what follows may begin.
double Proof::header()
{
    constexpr double logoWidth = 50, logoHeight = 16, rule = 20;
    double x = margin;
    if (facts_.maker.logo) {
        const SharedRgba logo = decodePicture(*facts_.maker.logo, work_);
        const double scale = std::min(logoWidth / logo->width(), logoHeight / logo->height());
        book_.image(*logo, logo->width() * scale, logo->height() * scale, Affine::move(x, margin), work_);
        x += logo->width() * scale + 5;
    }
    book_.text({x, margin + 1}, facts_.maker.name, heading, pageWidth / 2 - x + 20);
    book_.text({right, margin + 1}, say("Proof"), heading, 60, true);
    book_.text({right, margin + 9}, job_.name + " · " + facts_.date, plain, 110, true);
    book_.stroke({lineFrom({margin, margin + rule}, {right, margin + rule})}, {hair, 0.25, {}});
    return margin + rule + 6;
}

// The picture with its lines as large as the box lets it, at most as large as it is; under it what it is.
void Proof::piece(std::size_t index, const Rect& box)
{
    const Piece& piece = job_.pieces[index];
    const PieceResult& result = derived_.pieces[index];
    const Drawing drawing = drawPiece(job_, piece, result, Content::Both, work_);
    constexpr double lineHeight = 4.4, inset = 5;
    std::map<LineKind, Rect> boxes;
    for (const CutItem& item : drawing.cuts)
        boxes.try_emplace(item.kind, Rect::nothing()).first->second.add(bounds(item.path));
    const Rect frame{box.x0, box.y0, box.x1, box.y1 - 3 - lineHeight * double(3 + boxes.size())};
    book_.fill(frame, paper);
    const double scale = std::min({1.0, (frame.width() - 2 * inset) / result.box.width(), (frame.height() - 2 * inset) / result.box.height()});
    const Affine place = Affine::move((frame.x0 + frame.x1) / 2, (frame.y0 + frame.y1) / 2) * Affine::scale(scale, scale) *
                         Affine::move(-(result.box.x0 + result.box.x1) / 2, -(result.box.y0 + result.box.y1) / 2);
    for (const DrawnImage& image : drawing.images)
        for (const Affine& at : image.places)
            book_.image(*image.image.pixels, image.image.width(), image.image.height(), place * at, work_);
    for (const CutItem& item : drawing.cuts) {
        const Paths cuts = item.kind == LineKind::Perforate ? Paths{item.path} : cutsOf(item); // its dashes are the pen's here
        book_.stroke(cuts, {{1, 1, 1}, penOf(item.kind).width + 0.5, {}}, place);
        book_.stroke(cuts, penOf(item.kind), place);
        lengths_[item.kind] += lengthOf({item.path}) * derived_.sheet.placed[index];
    }
    double y = frame.y1 + 2;
    const std::string copies = filled(say("{} copies"), {std::to_string(derived_.sheet.placed[index])});
    const double taken = book_.text({box.x1, y}, copies, strong, box.width() / 2, true);
    book_.text({box.x0, y}, piece.name, strong, box.width() - taken - 3);
    y += lineHeight + 0.6;
    book_.text({box.x0, y}, say("Picture") + " " + size(result.width, result.height), plain, box.width());
    for (const auto& [kind, extent] : boxes)
        book_.text({box.x0, y += lineHeight}, say(facts(kind).title) + " " + size(extent.width(), extent.height()), plain, box.width());
    y += lineHeight;
    book_.text({box.x0, y}, scale == 1 ? say("Shown at its true size") : filled(say("Shown at {} % of its size"), {plainNumber(scale * 100, 0)}), small, box.width());
}

void Proof::legend()
{
    constexpr double high = 6, sample = 14;
    double x = margin;
    const double y = bottom - 38;
    book_.stroke({lineFrom({margin, y - 5}, {right, y - 5})}, {hair, 0.25, {}});
    for (const auto& [kind, length] : lengths_) {
        book_.stroke({lineFrom({x, y + 1.9}, {x + sample, y + 1.9})}, penOf(kind));
        x += sample + 2;
        x += book_.text({x, y}, say(facts(kind).title), plain, 60) + 7;
    }
    int copies = 0;
    for (const int placed : derived_.sheet.placed)
        copies += placed;
    const std::string of = size(derived_.sheet.width, derived_.sheet.height);
    std::string all = derived_.sheet.sheets != 1 ? filled(say("{} copies on {} sheets of {}"), {std::to_string(copies), std::to_string(derived_.sheet.sheets), of})
                      : copies != 1             ? filled(say("{} copies on one sheet of {}"), {std::to_string(copies), of})
                                                : filled(say("One copy on one sheet of {}"), {of});
    if (!job_.handOff.material.empty())
        all += " · " + job_.handOff.material;
    book_.text({margin, y + high}, all, plain, right - margin);
}

// Room for the yes.
void Proof::answer(double top)
{
    const char* const asked[] = {"Approved by", "Date", "Signature"};
    const double widths[] = {70, 40, 70 - 2 * between};
    double x = margin;
    for (int k = 0; k < 3; ++k) {
        book_.stroke({lineFrom({x, top + 10}, {x + widths[k], top + 10})}, {ink, 0.25, {}});
        book_.text({x, top + 11.5}, say(asked[k]), small, widths[k]);
        x += widths[k] + between;
    }
}

Bytes Proof::make()
{
    constexpr double foot = 46; // of a page, for the legend and the answer
    const auto pieces = shown();
    const int across = pieces.size() < 2 ? 1 : 2, down = pieces.size() < 3 ? 1 : 2;
    const auto each = std::size_t(across * down);
    for (std::size_t first = 0; first < std::max<std::size_t>(1, pieces.size()); first += each) {
        if (first > 0)
            book_.nextPage();
        const double top = header(), width = (right - margin - (across - 1) * between) / across, height = (bottom - foot - top - (down - 1) * between) / down;
        for (std::size_t k = first; k < std::min(first + each, pieces.size()); ++k) {
            work_.report(double(k) / double(pieces.size()), "proof");
            const double x = margin + double((k - first) % std::size_t(across)) * (width + between), y = top + double((k - first) / std::size_t(across)) * (height + between);
            piece(pieces[k], {x, y, x + width, y + height});
        }
    }
    legend(); // on the last page, when all is counted
    answer(bottom - 18);
    return book_.finish();
}

} // namespace

Bytes writeProof(const Job& job, const Derived& derived, const ProofFacts& facts, const Work& work) { return Proof(job, derived, facts, work).make(); }

} // namespace yokai
