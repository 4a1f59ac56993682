#include "desk/findings.h"

#include "check/mend.h"
#include "check/words.h"

#include <QCoreApplication>

#include <algorithm>
#include <iterator>

namespace yokai {

Station mendedAt(const Finding& finding)
{
    switch (wordsOf(finding.code).mendedIn) {
    case MendedIn::Artwork:
        return Station::Artwork;
    case MendedIn::Keep:
        return Station::Keep;
    case MendedIn::CutLines:
        return Station::CutLines;
    case MendedIn::TouchUp:
        return Station::TouchUp;
    case MendedIn::Bleed:
        return Station::Bleed;
    case MendedIn::Sheet:
        return Station::Sheet;
    case MendedIn::Cut:
        return Station::Cut;
    }
    return Station::TouchUp;
}

std::vector<std::size_t> findingsAt(const Desk& desk, Station station)
{
    std::vector<std::size_t> out;
    const Shown* shown = desk.shown();
    const PieceId piece = desk.currentPiece() ? desk.currentPiece()->id : PieceId{};
    for (std::size_t k = 0; shown && k < shown->derived.findings.size(); ++k) {
        const Finding& f = shown->derived.findings[k];
        const Station mended = mendedAt(f);
        const bool here = onSheet(station)                ? onSheet(mended)
                          : f.piece != piece             ? false
                          : f.code == "no-cut-line"      ? true // nothing else is left to see
                          : station == Station::TouchUp  ? mended == Station::TouchUp || mended == Station::CutLines
                          : station == Station::Bleed    ? f.code == "shows-paper"
                                                         : mended == station;
        if (here)
            out.push_back(k);
    }
    return out;
}

void mendFinding(Desk& desk, std::size_t finding, std::size_t press, bool allOfAKind)
{
    const auto shown = desk.sharedShown();
    if (!desk.current() || !shown || finding >= shown->derived.findings.size())
        return;
    const Finding chosen = shown->derived.findings[finding];
    if (press >= mendsFor(chosen).size())
        return;
    const Mend& how = mendsFor(chosen)[press];
    std::vector<Finding> all{chosen};
    if (allOfAKind) {
        all.clear();
        std::copy_if(shown->derived.findings.begin(), shown->derived.findings.end(), std::back_inserter(all),
                     [&](const Finding& f) { return f.code == chosen.code && f.piece == chosen.piece; });
    }
    // What is put where takes a while to find: a strip along a gap, say.
    const QString what = QCoreApplication::translate("Finding", how.press).toLower();
    const auto mended = std::make_shared<Job>(desk.job());
    desk.background().start(
        what,
        [mended, shown, all, &how](const Work& work) {
            mend(*mended, shown->derived, all, how, work);
            return QString();
        },
        [&desk, mended, what, of = desk.revision()] {
            if (*mended == desk.job())
                desk.say(Desk::tr("No press mends this one; move one of the lines."), Severity::Warning);
            else if (desk.revision() == of)
                desk.edit(what, [&](Job& job) { job = *mended; });
        });
}

} // namespace yokai
