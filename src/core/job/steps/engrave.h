// From what is kept to what is burnt of it.
#pragma once

#include "base/cover.h"
#include "engrave/engraving.h"
#include "job/step.h"
#include "job/steps/lines.h"
#include "path/path.h"

namespace yokai {

struct EngraveIn {
    static constexpr const char* step = "engrave";
    static constexpr const char* time = "engrave";
    using Out = Engraving;
    Made<Framed> framed;
    Made<Gray8> printed; // how opaque what is kept is
    Made<Parts> parts;
    std::shared_ptr<const Paths> region; // the through line, mm; null: there is none
    EngraveSpec spec;
    double pxPerMm = 1;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("framed", self.framed);
        visit("printed", self.printed);
        visit("parts", self.parts);
        visit("bounded", self.region != nullptr);
        if (self.region)
            visitPaths(*self.region, visit);
        visit("spec", self.spec);
        visit("scale", self.pxPerMm);
    }
    std::shared_ptr<const Engraving> make(Run& run) const;
};

} // namespace yokai
