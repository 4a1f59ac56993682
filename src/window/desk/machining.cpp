#include "desk/machining.h"

#include "artwork/artwork.h"
#include "desk/desk.h"
#include "desk/jogging.h"
#include "desk/operation_edits.h"
#include "formats/machine/own_files.h"
#include "words.h"

#include <QElapsedTimer>
#include <QSerialPortInfo>
#include <QSettings>
#include <QStandardPaths>
#include <QThread>

#include <cmath>
#include <cstring>

namespace yokai {

namespace {

constexpr int seenEveryMs = 100; // how often the window hears of what goes on: the eye follows no faster
constexpr Speed roundSpeed = Speed::mmPerSecond(80); // of a look round the outside, for the eye to follow

std::filesystem::path cutFolder()
{
    return (QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/cut")).toStdString();
}

// Whether a sheet that was printed and laid in for one is that of the other.
bool sameSheet(const Job& a, const Job& b)
{
    if (!(a.cut.standIn == b.cut.standIn && a.cut.plan.machine == b.cut.plan.machine && a.cut.plan.sheetX == b.cut.plan.sheetX &&
          a.cut.plan.sheetY == b.cut.plan.sheetY))
        return false;
    Job other = a;
    other.cut = b.cut;
    other.check = b.check;
    other.name = b.name;
    other.ids = b.ids;
    return other == b;
}

LineKind kindOf(Operation o)
{
    for (const LineKind kind : lineKinds)
        for (const bool inner : {false, true})
            if (operationOf(kind, inner) == o)
                return kind;
    return LineKind::Through;
}

std::shared_ptr<const Planned> drawn(Plan plan, const std::optional<Fit>& fit)
{
    constexpr double step = 0.1; // mm
    auto out = std::make_shared<Planned>();
    std::vector<Polyline> lines = cutsOf(plan, step);
    for (std::size_t k = 0; k < lines.size(); ++k)
        out->lines.push_back({kindOf(plan.steps[std::size_t(plan.runs[k].step)].operation), std::move(lines[k])});
    out->plan = std::move(plan);
    out->fit = fit;
    return out;
}

} // namespace

std::vector<MarkPair> OnBed::pairs() const
{
    std::vector<MarkPair> out;
    for (const MarkSeen& m : marks)
        if (m.measured)
            out.push_back({m.design, *m.measured});
    return out;
}

bool OnBed::measured() const
{
    return std::any_of(marks.begin(), marks.end(), [](const MarkSeen& m) { return m.measured.has_value(); });
}

// What a task takes with it.
struct Machining::Asked {
    std::shared_ptr<const Shown> shown; // none: the machine alone is meant
    CutSpec cut;
    int sheet = 0;
    QString port; // empty: the stand-in
    bool freshSheet = false;
    std::optional<Fit> fit;
    std::vector<MarkPair> marks;
    std::string name; // of the job
    Machine machine() const { return cut.plan.machine.value_or(Machine{}); }
};

struct Machining::There {
    std::unique_ptr<TestBed> bed;
    std::unique_ptr<MachineLine> line;
    Job laid; // what the stand-in's sheet was printed for,
    int sheet = 0;
    CutOrder order; // of the sheet that is asked about

    MachineLine& reach(const Asked& asked, const Work& work, const std::function<void(BedPicture)>& seen)
    {
        if (!asked.port.isEmpty()) {
            bed.reset();
            LinkSpec link = asked.machine().link;
            link.port = asked.port.toStdString();
            if (!line || !(line->link() == link))
                line = std::make_unique<MachineLine>(link);
            if (asked.shown)
                order = orderOf(asked.shown->job, asked.shown->derived, asked.sheet, work);
            return *line;
        }
        if (!asked.shown)
            throw Error(ErrorKind::Device, "the stand-in has no sheet yet; find the marks or cut first");
        if (!bed || asked.freshSheet || sheet != asked.sheet || !sameSheet(laid, asked.shown->job)) {
            line.reset();
            bed.reset();
            bed = std::make_unique<TestBed>(asked.shown->job, asked.shown->derived, asked.sheet, standInProgram(), work);
            line = std::make_unique<MachineLine>(bed->link());
            laid = asked.shown->job;
            sheet = asked.sheet;
            seen(bed->picture(*line, work));
        }
        order = bed->order();
        // What of the order does not lie in the sheet may have changed since.
        order.spec.useFit = asked.cut.useFit;
        order.spec.model = asked.cut.model;
        order.spec.maxResidual = asked.cut.maxResidual;
        order.spec.plan.material = asked.cut.plan.material;
        order.spec.plan.operations = asked.cut.plan.operations;
        order.spec.plan.byOperation = asked.cut.plan.byOperation;
        order.spec.plan.way = asked.cut.plan.way;
        return *line;
    }
    void close()
    {
        line.reset();
        bed.reset();
    }
};

Machining::Machining(Desk& desk) : desk_(desk), there_(std::make_shared<There>())
{
    port_ = QSettings().value("cut/port").toString();
    line_.atEnd([there = there_] { there->close(); });
    connect(&line_, &Background::progressed, this, &Machining::progressed);
    connect(&line_, &Background::said, this, &Machining::said);
    connect(&line_, &Background::changed, this, &Machining::changed);
    for (const auto signal : {&Desk::jobChanged, &Desk::shownChanged, &Desk::viewChanged})
        connect(&desk, signal, this, &Machining::look);
    lookForLeft();
}

Machining::~Machining() = default;

void Machining::post(std::function<void()> change)
{
    QMetaObject::invokeMethod(this, std::move(change), Qt::QueuedConnection);
}

void Machining::setPort(const QString& port)
{
    if (port == port_ || busy())
        return;
    port_ = port;
    QSettings settings;
    settings.setValue("cut/port", port);
    if (QStringList used = settings.value("cut/ports").toStringList(); !port.isEmpty() && !used.contains(port)) {
        constexpr qsizetype most = 8;
        used.prepend(port);
        settings.setValue("cut/ports", used.mid(0, most));
    }
    onBed_.head.reset();
    onBed_.picture.reset();
    forgetMarks();
}

QStringList Machining::ports() const
{
    QStringList out;
    for (const QSerialPortInfo& info : QSerialPortInfo::availablePorts())
        out << info.systemLocation();
    for (const QString& used : QSettings().value("cut/ports").toStringList())
        if (!out.contains(used))
            out << used;
    if (!port_.isEmpty() && !out.contains(port_))
        out << port_;
    return out;
}

// Whether it is another sheet now than that of which something is known.
void Machining::look()
{
    const Shown* shown = desk_.shown();
    if (!shown || !desk_.upToDate())
        return;
    std::vector<MarkSeen> marks;
    for (const Mark& m : shown->derived.sheet.marks)
        marks.push_back({{m.centre.x, shown->derived.sheet.height - m.centre.y}, {}});
    const bool same = std::equal(marks.begin(), marks.end(), onBed_.marks.begin(), onBed_.marks.end(),
                                 [](const MarkSeen& a, const MarkSeen& b) { return a.design == b.design; });
    const bool otherSheet = port_.isEmpty() && onBed_.picture && laidFor_ && !sameSheet(*laidFor_, shown->job);
    if (!same || otherSheet) {
        onBed_.marks = std::move(marks);
        if (otherSheet) {
            onBed_.photo.reset();
            onBed_.picture.reset();
            laidFor_.reset();
        }
    }
    if (desk_.station() == Station::Cut)
        plan();
    if (marksOf_ != desk_.revision() || !same || otherSheet) {
        marksOf_ = desk_.revision();
        fit();
        emit changed();
    }
}

void Machining::fit()
{
    onBed_.fit.reset();
    onBed_.refusal.clear();
    onBed_.doubts.clear();
    const Shown* shown = desk_.shown();
    const std::vector<MarkPair> pairs = onBed_.pairs();
    if (!shown || pairs.size() < 2 || !desk_.job().cut.useFit)
        return;
    CutOrder order;
    order.spec = desk_.job().cut;
    order.sheet.width = shown->derived.sheet.width;
    order.sheet.height = shown->derived.sheet.height;
    try {
        const Fit fit = fitOf(order, pairs);
        onBed_.doubts = doubtsOf(fit, pairs.size(), desk_.job().check.drift.mm());
        onBed_.fit = fit;
    } catch (const Error& e) {
        onBed_.refusal = words(e);
    }
}

// In the background, for where the sheet should lie.
void Machining::plan()
{
    if (!desk_.current() || (plannedOf_ == desk_.revision() && plannedSheet_ == desk_.sheet()))
        return;
    planner_.stop();
    if (planner_.busy())
        return; // asked again when it has ended
    plannedOf_ = desk_.revision();
    plannedSheet_ = desk_.sheet();
    const auto shown = desk_.sharedShown();
    auto made = std::make_shared<std::shared_ptr<const Planned>>();
    planner_.start(
        {},
        [shown, made, sheet = plannedSheet_](const Work& work) -> QString {
            const CutOrder order = orderOf(shown->job, shown->derived, sheet, work);
            *made = drawn(planOf(order.sheet.cuts, order.sheet.width, order.sheet.height, order.spec.plan, {}, work), {});
            return {};
        },
        [this, made, of = plannedOf_] {
            if (of == desk_.revision())
                onBed_.planned = *made;
            emit changed();
        });
}

bool Machining::mayCut(QString* why) const
{
    const auto refused = [&](const QString& text) {
        if (why)
            *why = text;
        return false;
    };
    const Shown* shown = desk_.shown();
    if (!shown || shown->derived.sheet.placements.empty())
        return refused({});
    if (const QString text = yokai::refusal(shown->derived, shown->job, desk_.unit()); !text.isEmpty())
        return refused(text);
    if (!port_.isEmpty() && !desk_.job().cut.plan.machine)
        return refused(tr("Choose the machine that is connected there: how large and how fast it is must be known."));
    if (!port_.isEmpty() && desk_.job().cut.plan.machine->dialect == Dialect::Hpgl)
        return refused(tr("This machine is fed by files: write the cut as HPGL under Hand-off."));
    return desk_.current() && !busy();
}

Machining::Asked Machining::asked(bool freshSheet)
{
    Asked out;
    if (desk_.upToDate())
        out.shown = desk_.sharedShown();
    out.cut = desk_.job().cut;
    out.sheet = desk_.sheet();
    out.port = port_;
    out.freshSheet = freshSheet && port_.isEmpty() && sheetCut_;
    out.fit = onBed_.fit;
    out.marks = onBed_.pairs();
    out.name = desk_.job().name;
    return out;
}

void Machining::start(const QString& what, const Asked& asked, std::function<QString(const Asked&, MachineLine&, const Work&)> task, std::function<void()> after)
{
    line_.start(
        what,
        [this, asked, there = there_, task = std::move(task)](const Work& work) -> QString {
            MachineLine& line = there->reach(asked, work, [this, job = asked.shown ? asked.shown->job : Job{}](BedPicture picture) {
                post([this, job, picture = std::make_shared<const BedPicture>(std::move(picture))] {
                    onBed_.picture = picture;
                    laidFor_ = std::make_shared<const Job>(job);
                    sheetCut_ = false;
                    emit changed();
                });
            });
            try {
                return task(asked, line, work);
            } catch (const LinkLost&) {
                line.close();
                if (asked.port.isEmpty())
                    there->close(); // a new one is started when it is needed
                throw;
            }
        },
        std::move(after));
}

void Machining::findMarks()
{
    if (!mayCut())
        return;
    if (desk_.job().cut.marksBy != MarksBy::Picture)
        findByEye();
    else if (onBed_.photo)
        findInPhoto();
    else if (port_.isEmpty())
        findByCamera();
    else
        emit said(tr("Open a picture of the machine's bed first."), int(Severity::Warning));
}

void Machining::openPhoto(const QString& file)
{
    if (!desk_.job().cut.plan.machine) {
        emit said(tr("Choose the machine first: how large its bed is must be known."), int(Severity::Warning));
        return;
    }
    auto photo = std::make_shared<Photograph>();
    line_.start(
        tr("Opening the picture"),
        [file, photo](const Work& work) -> QString {
            photo->pixels = decodePicture(openPicture(file.toStdString()), work);
            const Rgba8& p = *photo->pixels;
            photo->image = QImage(reinterpret_cast<const uchar*>(p.all().data()), p.width(), p.height(), p.width() * 4, QImage::Format_RGBA8888).convertToFormat(QImage::Format_RGB32);
            return {};
        },
        [this, photo] {
            forgetMarks();
            onBed_.photo = photo;
            onBed_.picture.reset();
            onBed_.corners.reset();
            // A camera that stands still sees the bed where it saw it before.
            if (QSettings().contains(cornersKey()))
                findInPhoto();
            else
                setCorners();
        });
}

QString Machining::cornersKey() const
{
    const QSize size = onBed_.photo ? onBed_.photo->image.size() : QSize();
    return QStringLiteral("cut/corners/%1/%2x%3").arg(yokai::text(desk_.job().cut.plan.machine.value_or(Machine{}).name)).arg(size.width()).arg(size.height());
}

void Machining::setCorners()
{
    if (!onBed_.photo || busy())
        return;
    BedCorners corners = likelyCorners(onBed_.photo->image.width(), onBed_.photo->image.height());
    if (const QVariantList kept = QSettings().value(cornersKey()).toList(); kept.size() == 8)
        for (qsizetype k = 0; k < 4; ++k)
            corners[std::size_t(k)] = {kept[2 * k].toDouble(), kept[2 * k + 1].toDouble()};
    onBed_.corners = corners;
    emit changed();
}

void Machining::setCorner(std::size_t which, Point px)
{
    if (!onBed_.corners)
        return;
    (*onBed_.corners)[which] = px;
    emit changed();
}

void Machining::found(const std::vector<std::optional<Point>>& places)
{
    for (std::size_t k = 0; k < std::min(places.size(), onBed_.marks.size()); ++k)
        onBed_.marks[k].measured = places[k];
    fit();
    emit changed();
    if (!onBed_.refusal.isEmpty())
        emit said(onBed_.refusal, int(Severity::Error));
}

void Machining::findInPhoto()
{
    if (!onBed_.photo || !desk_.shown() || !desk_.job().cut.plan.machine || busy())
        return;
    if (!onBed_.corners)
        setCorners();
    const BedSpec& bed = desk_.job().cut.plan.machine->bed;
    struct Out {
        std::vector<std::optional<Point>> places;
        BedPicture picture;
    };
    auto out = std::make_shared<Out>();
    line_.start(
        tr("Finding the marks"),
        [out, photo = onBed_.photo, marks = desk_.shown()->derived.sheet.marks, seen = BedPhoto{*onBed_.corners, bed.width.mm(), bed.depth.mm(), {}}](const Work& work) mutable -> QString {
            const Rgba8& pixels = *photo->pixels;
            // Features of the picture's own are pointed at by the maker.
            const bool looks = std::all_of(marks.begin(), marks.end(), isPrinted);
            FoundMarks in;
            if (looks) {
                in = yokai::findMarks(pixels, marks, work);
                seen.lens = in.lens;
            } else
                in.px.resize(marks.size());
            for (const auto& px : in.px)
                out->places.push_back(px ? std::optional(seen.onBed(*px)) : std::nullopt);
            // As fine as the photo itself.
            constexpr double most = 40e6; // pixels
            const double fine = distance(seen.corners[0], seen.corners[1]) / seen.width;
            const double pxPerMm = std::min(fine, std::sqrt(most / (seen.width * seen.depth)));
            const Rgba8 above = fromAbove(pixels, seen, pxPerMm, work);
            out->picture.image = QImage(reinterpret_cast<const uchar*>(above.all().data()), above.width(), above.height(), above.width() * 4, QImage::Format_RGBA8888).convertToFormat(QImage::Format_RGB32);
            out->picture.corner = {0, seen.depth};
            out->picture.pxPerMm = pxPerMm;
            return {};
        },
        [this, out] {
            QVariantList kept;
            for (const Point p : *onBed_.corners)
                kept << p.x << p.y;
            QSettings().setValue(cornersKey(), kept);
            onBed_.corners.reset();
            onBed_.picture = std::make_shared<const BedPicture>(std::move(out->picture));
            found(out->places);
        });
}

// The stand-in's camera, which sees its bed from right above.
void Machining::findByCamera()
{
    auto places = std::make_shared<std::vector<std::optional<Point>>>();
    forgetMarks();
    start(
        tr("Finding the marks"), asked(true),
        [places, there = there_](const Asked&, MachineLine& line, const Work& work) -> QString {
            const BedPicture picture = there->bed->picture(line, work);
            const QImage image = picture.image.convertToFormat(QImage::Format_RGBA8888);
            Rgba8 pixels(image.width(), image.height());
            for (int y = 0; y < image.height(); ++y)
                std::memcpy(pixels.row(y), image.constScanLine(y), std::size_t(image.width()) * sizeof(Rgba));
            for (const auto& px : yokai::findMarks(pixels, there->order.sheet.marks, work).px)
                places->push_back(px ? std::optional(Point{picture.corner.x + px->x / picture.pxPerMm, picture.corner.y - px->y / picture.pxPerMm}) : std::nullopt);
            return {};
        },
        [this, places] { found(*places); });
}

bool Machining::takeNear(Point onBed, double reachMm)
{
    const auto& picture = onBed_.picture;
    const int mark = edits::markToTake(desk_);
    if (!picture || mark < 0)
        return false;
    const Point px{(onBed.x - picture->corner.x) * picture->pxPerMm, (picture->corner.y - onBed.y) * picture->pxPerMm};
    const double reach = reachMm * picture->pxPerMm;
    const QRect part = QRect(int(px.x - 2 * reach), int(px.y - 2 * reach), int(4 * reach) + 1, int(4 * reach) + 1) & picture->image.rect();
    const QImage image = picture->image.copy(part).convertToFormat(QImage::Format_RGBA8888);
    if (part.isEmpty())
        return false;
    Rgba8 pixels(image.width(), image.height());
    for (int y = 0; y < image.height(); ++y)
        std::memcpy(pixels.row(y), image.constScanLine(y), std::size_t(image.width()) * sizeof(Rgba));
    const Point corner{double(part.x()), double(part.y())};
    const auto at = featureNear(pixels, px - corner, reach);
    if (!at)
        return false;
    const Point seen = *at + corner;
    take(mark, Point{picture->corner.x + seen.x / picture->pxPerMm, picture->corner.y - seen.y / picture->pxPerMm});
    desk_.select({});
    return true;
}

// What to do with each that is found, on the line's thread.
std::function<void(const MarkPair&)> Machining::seenMark()
{
    return [this](const MarkPair& pair) {
        post([this, pair] {
            for (std::size_t k = 0; k < onBed_.marks.size(); ++k)
                if (onBed_.marks[k].design == pair.design)
                    take(int(k), pair.measured);
        });
    };
}

void Machining::findByEye()
{
    const Asked with = asked(true);
    forgetMarks();
    if (with.freshSheet)
        onBed_.picture.reset();
    start(
        tr("Finding the marks"), with,
        [this, there = there_](const Asked&, MachineLine& line, const Work& work) -> QString {
            marksByEye(there->order, line, {seenMark(), {}, {}, {}}, work);
            return {};
        },
        [this] {
            if (!onBed_.refusal.isEmpty())
                emit said(onBed_.refusal, int(Severity::Error));
        });
}

void Machining::take(int mark, std::optional<Point> measured)
{
    if (mark < 0 || mark >= int(onBed_.marks.size()))
        return;
    onBed_.marks[std::size_t(mark)].measured = measured;
    fit();
    emit changed();
}

void Machining::takeHere(int mark)
{
    if (onBed_.head)
        take(mark, onBed_.head->at + eyeOffset());
}

void Machining::forgetMarks()
{
    for (MarkSeen& m : onBed_.marks)
        m.measured.reset();
    fit();
    emit changed();
}

QStringList Machining::doubtWords() const
{
    QStringList out;
    const auto mm = [this](double v) { return exactText(v, desk_.unit()); };
    for (const DoubtOfFit& d : onBed_.doubts)
        switch (d.why) {
        case FitDoubt::LeftOut:
            out << tr("Mark %1 is left out: it lies %2 astray, and the others agree without it.").arg(d.mark + 1).arg(mm(d.value));
            break;
        case FitDoubt::Reordered:
            out << tr("The marks were measured in another order than they are numbered in.");
            break;
        case FitDoubt::TurnedRound:
            out << tr("The sheet lies turned by %1\u00b0.").arg(yokai::number(d.value, 0));
            break;
        case FitDoubt::NoneToSpare:
            out << tr("No mark is to spare: one that was measured wrongly would not show.");
            break;
        case FitDoubt::Coarse:
            out << tr("%1 is to be expected at the cut; lines are checked for %2 (Drift, at Touch-up).").arg(mm(d.value), mm(d.limit));
            break;
        }
    return out;
}

// "Kiss · 12 of 24": how far it is within its operation.
QString Machining::atWhat(const Planned* planned, std::size_t runs, std::size_t of)
{
    if (!planned || runs >= planned->plan.runs.size())
        return tr("%1 of %2").arg(runs).arg(of);
    const auto& all = planned->plan.runs;
    const int step = all[runs].step;
    const auto isOf = [step](const ToolRun& run) { return run.step == step; };
    const auto before = std::count_if(all.begin(), all.begin() + std::ptrdiff_t(runs), isOf), whole = std::count_if(all.begin(), all.end(), isOf);
    const PlannedStep& is = planned->plan.steps[std::size_t(step)];
    return (is.name.empty() ? QCoreApplication::translate("Operation", facts(is.operation).title) : yokai::text(is.name)) + QStringLiteral(" \u00b7 ") +
           tr("%1 of %2").arg(before).arg(whole);
}

CutWatch Machining::watch(std::shared_ptr<const Planned> planned, const Program& program, const Work& work)
{
    struct Last {
        QElapsedTimer run, head;
    };
    auto last = std::make_shared<Last>();
    CutWatch out;
    const std::size_t of = program.done.size();
    const auto left = [program = &program](std::size_t runs) { return program->seconds - (runs > 0 ? program->doneBy[runs - 1] : 0); };
    out.run = [this, last, of, left, planned, &work, seconds = program.seconds](std::size_t runs) {
        if (runs < of && last->run.isValid() && last->run.elapsed() < seenEveryMs)
            return;
        last->run.start();
        const QString text = atWhat(planned.get(), runs, of) + QStringLiteral(" \u00b7 ") + tr("%1 left").arg(timeText(left(runs)));
        work.report(seconds > 0 ? 1 - left(runs) / seconds : 0, text.toStdString());
        post([this, runs, seconds = left(runs)] {
            if (onBed_.under) {
                onBed_.under->runs = runs;
                onBed_.under->left = seconds;
            }
            emit headMoved();
        });
    };
    out.at = [this, last](Point at, MachineState state) {
        if (last->head.isValid() && last->head.elapsed() < seenEveryMs)
            return;
        last->head.start();
        post([this, at, state] {
            onBed_.head = Head{at, state};
            emit headMoved();
        });
    };
    return out;
}

// From the first path, or from where it was left.
QString Machining::stream(MachineLine& line, CutRun& run, const Machine& machine, const Program& program, std::shared_ptr<const Planned> planned, const Work& work)
{
    const CutWatch watched = watch(planned, program, work);
    post([this, planned, runs = run.runsDone(), of = program.done.size(), seconds = program.seconds] {
        onBed_.under = Under{planned, runs, of, seconds, false};
        emit changed();
    });
    struct Ended {
        Machining& of;
        ~Ended()
        {
            of.post([m = &of] {
                m->onBed_.under.reset();
                emit m->changed();
            });
        }
    } const ended{*this};
    const Work quiet{work.stop, {}}; // told in words of its own
    try {
        if (run.canGoOn())
            run.goOn(*control_, watchOf(run, machine, watched), quiet);
        else
            run.start(*control_, watchOf(run, machine, watched), quiet);
        seen(line.reached(work), machine, work);
        return {};
    } catch (const Cancelled&) {
        return tr("Stopped, with the tool up: %1 of %2 paths are done.").arg(run.runsDone()).arg(program.done.size());
    }
}

void Machining::runRound()
{
    if (!mayCut() || (desk_.job().cut.useFit && !onBed_.fit))
        return;
    start(tr("Running round"), asked(false), [this, there = there_](const Asked& with, MachineLine& line, const Work& work) -> QString {
        const Plan plan = planFor(there->order, with.fit, work);
        const Program program = yokai::runRound(plan.machine, outsideOf(plan), roundSpeed);
        CutRun run(line, program);
        return stream(line, run, plan.machine, program, drawn(plan, with.fit), work);
    });
}

void Machining::faintPass()
{
    if (!mayCut() || (desk_.job().cut.useFit && !onBed_.fit))
        return;
    start(tr("Faint pass"), asked(false), [this, there = there_](const Asked& with, MachineLine& line, const Work& work) -> QString {
        const Plan plan = planFor(there->order, with.fit, work);
        const Program program = gcodeOf(plan, Trial::Faint);
        CutRun run(line, program);
        return stream(line, run, plan.machine, program, drawn(plan, with.fit), work);
    });
}

void Machining::cut(std::function<bool(const QStringList& doubts)> sure)
{
    if (!mayCut())
        return;
    const CutSpec& spec = desk_.job().cut;
    if (spec.useFit && (!onBed_.fit || (port_.isEmpty() && sheetCut_))) {
        if (!onBed_.refusal.isEmpty() && onBed_.measured() && !sheetCut_)
            emit said(onBed_.refusal, int(Severity::Error));
        else if (spec.marksBy != MarksBy::Eye)
            emit said(tr("The marks are not found yet; find two of them or more."), int(Severity::Warning));
        if (spec.marksBy != MarksBy::Eye || (!onBed_.refusal.isEmpty() && !sheetCut_))
            return;
        forgetMarks(); // they are found on the way
    } else if (!onBed_.doubts.empty() && !sure(doubtWords()))
        return;
    const Asked with = asked(true);
    control_->hold = false;
    auto result = std::make_shared<TestCutResult>();
    auto done = std::make_shared<bool>(false);
    std::filesystem::path folder;
    if (!port_.isEmpty() && lockFolder())
        folder = cutFolder();
    start(
        tr("Cutting"), with,
        [this, there = there_, result, done, folder](const Asked& asked, MachineLine& line, const Work& work) -> QString {
            CutDone cut;
            cut.marks = asked.marks;
            cut.fit = asked.cut.useFit ? asked.fit : std::nullopt;
            if (asked.cut.useFit && !cut.fit) {
                cut.marks = marksByEye(there->order, line, {seenMark(), {}, {}, {}}, work);
                cut.fit = fitOf(there->order, cut.marks);
                if (!doubtsOf(*cut.fit, cut.marks.size(), asked.shown->job.check.drift.mm()).empty())
                    return tr("Look at the fit first; then cut.");
            }
            const auto planned = drawn(planFor(there->order, cut.fit, work), cut.fit);
            const Program program = gcodeOf(planned->plan);
            if (!folder.empty()) {
                Machine machine = planned->plan.machine;
                machine.link = line.link();
                keepCut(folder, {asked.name, machine, program, 0});
            }
            CutRun run(line, program, folder.empty() ? folder : recordIn(folder));
            post([this] { sheetCut_ = true; });
            const QString stopped = stream(line, run, planned->plan.machine, program, planned, work);
            if (!folder.empty())
                forgetCut(folder);
            if (!stopped.isEmpty() || !asked.port.isEmpty()) {
                post([this] { lookForLeft(); });
                return stopped.isEmpty() ? tr("Cut: %n paths in %1.", nullptr, int(program.done.size())).arg(timeText(program.seconds)) : stopped;
            }
            work.report(0.99, "looking at the sheet");
            cut.plan = planned->plan;
            cut.runs = run.runsDone();
            *result = there->bed->landed(line, cut, work);
            *done = true;
            return {};
        },
        [this, result, done, of = with.shown->revision] {
            if (!*done)
                return;
            onBed_.picture = std::make_shared<const BedPicture>(result->bed);
            desk_.setTestCut(result, of);
        });
}

void Machining::cutPatch()
{
    const PlanSpec& plan = desk_.job().cut.plan;
    if (!mayCut() || !plan.material)
        return;
    auto made = std::make_shared<PatchOnBed>();
    made->spec = patchSpec_;
    if (const int at = edits::selectedOperation(desk_); at >= 0)
        made->spec.process = facts(plan.operations[std::size_t(at)].operation).process;
    try {
        made->patch = patchOf(made->spec, plan.machine ? plan.machine->kind : MachineKind::Cutter, *plan.material);
    } catch (const Error& e) {
        emit said(words(e), int(Severity::Error));
        return;
    }
    control_->hold = false;
    auto planned = std::make_shared<std::shared_ptr<const Planned>>();
    start(
        tr("Test patch"), asked(false),
        [this, there = there_, made, planned](const Asked&, MachineLine& line, const Work& work) -> QString {
            CutOrder order = there->order;
            order.sheet = {};
            order.sheet.width = made->patch.width;
            order.sheet.height = made->patch.height;
            order.sheet.cuts = made->patch.items;
            order.spec.plan.operations = made->patch.operations;
            made->corner = {order.spec.plan.sheetX.mm(), order.spec.plan.sheetY.mm()};
            *planned = drawn(planFor(order, std::nullopt, work), Fit{});
            const Program program = gcodeOf((*planned)->plan);
            CutRun run(line, program);
            return stream(line, run, (*planned)->plan.machine, program, *planned, work);
        },
        [this, made, planned] {
            sheetCut_ = true;
            onBed_.patch = made;
            onBed_.patchPlanned = *planned;
            emit changed();
        });
}

void Machining::choosePatch(std::size_t square)
{
    if (!onBed_.patch || square >= onBed_.patch->patch.settings.size() || !desk_.job().cut.plan.material)
        return;
    const ProcessSettings settings = onBed_.patch->patch.settings[square];
    const Process process = onBed_.patch->spec.process;
    auto chosen = std::make_shared<PatchOnBed>(*onBed_.patch);
    chosen->chosen = square;
    desk_.edit(tr("take the test patch's settings"), [&](Job& job) {
        job.cut.plan.material->of(process) = settings;
        // What was said over the material's is what was in doubt.
        for (OperationStep& step : job.cut.plan.operations)
            if (facts(step.operation).process == process && step.name.empty())
                step.settings.reset();
    });
    onBed_.patch = chosen;
    try {
        keepMaterial(ownFolder(), *desk_.job().cut.plan.material);
    } catch (const Error& e) {
        emit said(words(e), int(Severity::Error));
    }
    const bool laser = desk_.job().cut.plan.machine && desk_.job().cut.plan.machine->kind == MachineKind::Laser;
    emit said(tr("'%1' is cut at %2 and %3 from now on.")
                  .arg(yokai::text(desk_.job().cut.plan.material->name), speedText(settings.speed, desk_.unit()),
                       laser ? tr("%1 %").arg(yokai::number(settings.power, 1)) : tr("%1 g").arg(yokai::number(settings.force, 0))),
              int(Severity::Note));
    emit changed();
}

void Machining::putPatchAway()
{
    onBed_.patch.reset();
    onBed_.patchPlanned.reset();
    emit changed();
}

void Machining::setHeld(bool held)
{
    control_->hold = held;
    if (onBed_.under)
        onBed_.under->held = held;
    emit changed();
}

bool Machining::lockFolder()
{
    if (lock_)
        return true;
    std::error_code error;
    std::filesystem::create_directories(cutFolder(), error);
    auto lock = std::make_unique<QLockFile>(QString::fromStdString((cutFolder() / "lock").string()));
    lock->setStaleLockTime(0); // only by whether its process lives
    if (!lock->tryLock(0))
        return false;
    lock_ = std::move(lock);
    return true;
}

// A cut in the folder is left, unless another window is at it.
void Machining::lookForLeft()
{
    left_.reset();
    std::error_code error;
    if (std::filesystem::exists(cutFolder() / "cut.json", error) && lockFolder())
        left_ = leftCut(cutFolder());
    emit changed();
}

void Machining::goOn()
{
    if (!left_ || busy())
        return;
    Asked with;
    with.cut.plan.machine = left_->machine;
    with.port = QString::fromStdString(left_->machine.link.port);
    control_->hold = false;
    start(
        tr("Cutting on"), with,
        [this, left = *left_](const Asked&, MachineLine& line, const Work& work) -> QString {
            CutRun run(line, left.program, recordIn(cutFolder()));
            const QString stopped = stream(line, run, left.machine, left.program, nullptr, work);
            forgetCut(cutFolder());
            return stopped.isEmpty() ? tr("Cut: %n paths in %1.", nullptr, int(left.program.done.size())).arg(timeText(left.program.seconds)) : stopped;
        },
        [this] { lookForLeft(); });
}

void Machining::dropLeft()
{
    forgetCut(cutFolder());
    lookForLeft();
}

void Machining::jog(Point by)
{
    if (busy() && !jogging_)
        return;
    {
        const std::scoped_lock lock(jogs_->mutex);
        jogs_->steps.push_back(by);
    }
    jogs();
}

void Machining::jogWhile(Point towards)
{
    if (busy() && !jogging_)
        return;
    {
        const std::scoped_lock lock(jogs_->mutex);
        jogs_->towards = towards;
    }
    jogs();
}

void Machining::goTo(Point on)
{
    if (busy() && !jogging_)
        return;
    {
        const std::scoped_lock lock(jogs_->mutex);
        jogs_->to = on - eyeOffset();
    }
    jogs();
}

// Where the maker looks, from the tool: where there is a camera, by that.
Point Machining::eyeOffset() const
{
    const Machine machine = desk_.job().cut.plan.machine.value_or(Machine{});
    return machine.eye.kind == Eye::Camera ? Point{machine.eye.x.mm(), machine.eye.y.mm()} : Point{};
}

void Machining::endJog()
{
    const std::scoped_lock lock(jogs_->mutex);
    jogs_->towards.reset();
}

void Machining::jogs()
{
    if (busy())
        return; // what is under way takes it
    jogging_ = true;
    start(
        tr("Moving the head"), asked(false),
        [this, jogs = jogs_, there = there_](const Asked& with, MachineLine& line, const Work& work) -> QString {
            const Machine machine = with.port.isEmpty() ? machineOf(there->order) : with.machine();
            moveHead(line.reached(work), machine, *jogs, work);
            return {};
        },
        [this] {
            jogging_ = false;
            bool more = false;
            {
                const std::scoped_lock lock(jogs_->mutex);
                more = !jogs_->idle();
            }
            if (more)
                jogs();
        });
}

Head Machining::seen(SerialMachine& there, const Machine& machine, const Work& work)
{
    const MachineStatus status = there.status(work);
    const Head head{machine.bed.toMachine().inverse()(status.at), status.state};
    post([this, head] {
        onBed_.head = head;
        emit headMoved();
    });
    return head;
}

// Over 60 lines with its lambdas: what is asked for, until nothing is.
void Machining::moveHead(SerialMachine& there, const Machine& machine, Jogs& jogs, const Work& work)
{
    constexpr double stepSpeed = 1800, heldSpeed = 3000; // mm/min
    constexpr int lookEveryMs = 40;
    const Affine toMachine = machine.bed.toMachine();
    const auto look = [&] { return seen(there, machine, work); };
    const auto send = [&](Point to, double speed) {
        // The machine refuses to leave its bed; so near its edge it simply stops there.
        to = {std::clamp(to.x, 0.0, machine.bed.width.mm()), std::clamp(to.y, 0.0, machine.bed.depth.mm())};
        const Point at = toMachine(to);
        there.ask(QStringLiteral("$J=G90 G21 X%1 Y%2 F%3")
                      .arg(QString::fromStdString(plainNumber(at.x, 4)), QString::fromStdString(plainNumber(at.y, 4)))
                      .arg(speed),
                  work);
        return to;
    };
    Point goal = look().at;
    for (;;) {
        std::vector<Point> steps;
        std::optional<Point> to, towards;
        {
            const std::scoped_lock lock(jogs.mutex);
            steps.swap(jogs.steps);
            to.swap(jogs.to);
            towards = jogs.towards;
        }
        if (to)
            goal = send(*to, heldSpeed);
        for (const Point by : steps)
            goal = send(goal + by, stepSpeed);
        if (towards) {
            const double far = machine.bed.width.mm() + machine.bed.depth.mm();
            send(goal + *towards * far, heldSpeed);
            for (bool held = true; held;) {
                QThread::msleep(lookEveryMs);
                look();
                const std::scoped_lock lock(jogs.mutex);
                held = jogs.towards == towards && !work.stop.stop_requested();
            }
            there.cancelJog();
        }
        Head head = look();
        while (head.state != MachineState::Idle && head.state != MachineState::Alarm) {
            QThread::msleep(lookEveryMs);
            head = look();
            const std::scoped_lock lock(jogs.mutex);
            if (!jogs.steps.empty())
                break;
        }
        if (towards)
            goal = head.at;
        if (head.state == MachineState::Alarm)
            throw Error(ErrorKind::Device, "the machine does not know where it is; find its corner first (Home)");
        const std::scoped_lock lock(jogs.mutex);
        if (jogs.idle() && head.state == MachineState::Idle)
            return;
    }
}

void Machining::home()
{
    if (busy())
        return;
    start(tr("Finding the machine's corner"), asked(false), [this, there = there_](const Asked& with, MachineLine& line, const Work& work) -> QString {
        constexpr int patience = 60'000; // ms: a large bed's way
        SerialMachine& machine = line.reached(work);
        machine.ask(QStringLiteral("$H"), work, patience);
        seen(machine, with.port.isEmpty() ? machineOf(there->order) : with.machine(), work);
        return {};
    });
}

} // namespace yokai
