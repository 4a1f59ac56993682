// Necks of what stays and gaps of what falls out, between the stretches of a line and between lines.
#include "check/checks.h"
#include "check/widths.h"

namespace yokai {

namespace {

struct WidthsIn {
    static constexpr const char* step = "widths";
    static constexpr const char* time = "check";
    using Out = Faults;
    PathSet paths;
    Facing side = Facing::Material;
    double limit = 0;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("paths", self.paths);
        visit("side", self.side);
        visit("limit", self.limit);
    }
    std::shared_ptr<const Faults> make(Run&) const
    {
        constexpr double closely = 10; // places to a limit
        return std::make_shared<const Faults>(narrowPlaces(Trace(paths, limit / closely, limit), side, limit));
    }
};

} // namespace

void checkWidths(const CheckGround& ground, Findings& found)
{
    const CheckSpec& spec = ground.job.check;
    const struct {
        const char* code;
        Facing side;
        double limit;
    } limits[] = {{"thin-neck", Facing::Material, spec.leastNeck.mm()}, {"narrow-gap", Facing::Waste, spec.leastGap.mm()}};
    eachLine(ground.derived, [&](const PieceResult& piece, const LayerResult&, const CutLine& line) {
        for (const auto& [code, side, limit] : limits) {
            if (limit <= 0)
                continue;
            std::vector<WidthsIn> widths;
            for (const PathSet& paths : together(line.paths, limit))
                widths.push_back({paths, side, limit});
            for (const Made<Faults>& faults : ground.run.all(widths))
                for (const Fault& fault : *faults)
                    found.push_back({code, Severity::Warning, piece.id, line.id, fault.at, fault.value, limit});
        }
    });
}

} // namespace yokai
