// What is known of a machine's bed and of the sheet that lies on it, as one value that the views read and that can be handed to
// another thread.
//
// Unit: mm on the bed before its user, x to the right, y away.
#pragma once

#include "base/line_kind.h"
#include "device/serial_machine.h"
#include "device/test_cut.h"
#include "machine/patch.h"
#include "machine/plan.h"
#include "register/bed_photo.h"
#include "register/doubt.h"

#include <QString>

#include <memory>
#include <optional>
#include <vector>

namespace yokai {

struct MarkSeen {
    Point design; // on the sheet, y up
    std::optional<Point> measured;
    bool operator==(const MarkSeen&) const = default;
};

// A plan with where the tool truly goes, a line a run, to be drawn.
struct Planned {
    Plan plan;
    struct Line {
        LineKind kind;
        Polyline points;
    };
    std::vector<Line> lines;
    std::optional<Fit> fit; // it was made with; none: for where the sheet should lie
};

struct Head {
    Point at;
    MachineState state = MachineState::Unknown;
    bool operator==(const Head&) const = default;
};

// A cut, or a trial of one, that is under way.
struct Under {
    std::shared_ptr<const Planned> planned; // none: one that is gone on with
    std::size_t runs = 0, of = 0;           // that are done
    double left = 0;                        // seconds
    bool held = false;
};

struct Photograph {
    SharedRgba pixels;
    QImage image; // the same
};

// A test patch that was cut.
struct PatchOnBed {
    Patch patch;
    Point corner; // its near left one
    PatchSpec spec;
    std::optional<std::size_t> chosen; // the square that came out right
    Rect square(std::size_t k) const   // on the bed
    {
        const Rect& s = patch.squares[k];
        return {corner.x + s.x0, corner.y + patch.height - s.y1, corner.x + s.x1, corner.y + patch.height - s.y0};
    }
};

struct OnBed {
    std::vector<MarkSeen> marks; // those of the sheet
    std::optional<Fit> fit;      // as soon as enough are measured
    QString refusal;             // why there is none
    std::vector<DoubtOfFit> doubts;
    std::shared_ptr<const BedPicture> picture;
    std::shared_ptr<const Photograph> photo; // it was made from; none: the camera's own
    std::optional<BedCorners> corners;       // of the bed in the photo, while they are being set, pixels
    std::shared_ptr<const Planned> planned; // for where the sheet should lie; none while it is made, and where it cannot be
    QString planProblem;                    // why it cannot
    std::optional<Head> head;
    std::optional<Under> under;
    std::optional<Under> stopped; // the cut that was stopped last, as far as it came: until another begins, or the job is another
    std::shared_ptr<const PatchOnBed> patch;       // while it is looked at
    std::shared_ptr<const Planned> patchPlanned;   // its lines
    std::vector<MarkPair> pairs() const;
    bool measured() const; // any of the marks
};

} // namespace yokai
