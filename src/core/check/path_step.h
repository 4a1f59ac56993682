// A check that looks at each path by itself, as a step. Private to the check room.
//
//     struct Lumps {
//         static constexpr const char* name = "lumps";
//         static Faults find(const Path& path, double limit);
//     };
#pragma once

#include "check/checks.h"
#include "check/faults.h"

namespace yokai {

template <class Judge> struct PathFaultsIn {
    static constexpr const char* step = Judge::name;
    static constexpr const char* time = "check";
    using Out = Faults;
    PathSet path;
    double limit = 0;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("path", self.path);
        visit("limit", self.limit);
    }
    std::shared_ptr<const Faults> make(Run&) const { return std::make_shared<const Faults>(Judge::find(path[0], limit)); }
};

// Visits what it finds in every line: (piece, line, fault).
template <class Judge, class F> void eachPathFault(const CheckGround& ground, double limit, F visit)
{
    eachLine(ground.derived, [&](const PieceResult& piece, const LayerResult&, const CutLine& line) {
        std::vector<PathFaultsIn<Judge>> ins;
        for (const PathSet& path : singly(line.paths))
            ins.push_back({path, limit});
        for (const Made<Faults>& faults : ground.run.all(ins))
            for (const Fault& fault : *faults)
                visit(piece, line, fault);
    });
}

} // namespace yokai
