// The machine at the Cut station: how it is reached, what lies on its bed, the marks found there, and the cut under way. A cut goes on
// whatever is done to the job meanwhile: it was ordered as the job was then.
#pragma once

#include "desk/background.h"
#include "desk/history.h"
#include "desk/on_bed.h"
#include "device/left_cut.h"

#include <QLockFile>
#include <QObject>
#include <QStringList>

#include <functional>
#include <mutex>

namespace yokai {

class Desk;
struct Shown;

class Machining : public QObject {
    Q_OBJECT
public:
    explicit Machining(Desk& desk);
    ~Machining() override;

    const OnBed& onBed() const { return onBed_; }
    bool busy() const { return line_.busy(); }
    // Where the machine is connected; empty: the stand-in. This computer's own, no part of a job.
    QString port() const { return port_; }
    void setPort(const QString& port);
    QStringList ports() const; // those there are, and those that were used

    // What may be asked of it now; `why` says why not.
    bool mayCut(QString* why = nullptr) const;
    bool usesFit() const; // as the job says, where there is a print to fit to
    void findMarks(); // by its eye, or in a picture of its bed
    void openPhoto(const QString& file);
    void setCorner(std::size_t which, Point px); // of the bed in the photo
    void setCorners();                           // again
    bool takeNear(Point onBed, double reachMm);  // the mark to take is the feature next to a place of the picture; false: there is none
    void runRound();
    void faintPass();
    // `sure` is asked where the fit is doubtful.
    void cut(std::function<bool(const QStringList& doubts)> sure);
    const PatchSpec& patchSpec() const { return patchSpec_; }
    void setPatchSpec(const PatchSpec& spec) { patchSpec_ = spec; }
    void cutPatch();
    void choosePatch(std::size_t square); // its settings become the material's
    void putPatchAway();
    void setHeld(bool held);
    void stop() { line_.stop(); }

    // A cut that another window, or this one, did not finish.
    const std::optional<LeftCut>& left() const { return left_; }
    void goOn();
    void dropLeft();

    void take(int mark, std::optional<Point> measured); // or forget it
    void takeHere(int mark);                            // where the head is
    void forgetMarks();
    void jog(Point by);          // mm; one after another
    void jogWhile(Point towards); // until endJog()
    void endJog();
    void goTo(Point on); // the tool, or the camera where there is one
    void home();

    QStringList doubtWords() const;

signals:
    void changed();                                 // anything of the above
    void headMoved();
    void progressed(double fraction, QString step); // below 0: ended
    void said(QString text, int severity);

private:
    struct There; // what is reached, on the line's thread
    struct Asked; // what a task of the line takes with it
    Asked asked(bool freshSheet);
    void start(const QString& what, const Asked& asked, std::function<QString(const Asked&, MachineLine&, const Work&)> task, std::function<void()> after = {});
    QString stream(MachineLine& line, CutRun& run, const Machine& machine, const Program& program, std::shared_ptr<const Planned> planned, const Work& work);
    Head seen(SerialMachine& there, const Machine& machine, const Work& work); // and told
    static QString atWhat(const Planned* planned, std::size_t runs, std::size_t of);
    CutWatch watch(std::shared_ptr<const Planned> planned, const Program& program, const Work& work);
    void post(std::function<void()> change); // from the line's thread
    void findByEye();
    std::function<void(const MarkPair&)> seenMark();
    void findInPhoto();
    void findByCamera();
    void found(const std::vector<std::optional<Point>>& places);
    QString cornersKey() const;
    void look();                             // whether the sheet is another now
    void fit();
    void plan();
    bool lockFolder();
    void lookForLeft();
    struct Jogs {
        std::mutex mutex;
        std::vector<Point> steps;
        std::optional<Point> to;      // a place on the bed
        std::optional<Point> towards; // while it is held
        bool idle() const { return steps.empty() && !to && !towards; }
    };
    Point eyeOffset() const;
    void jogs();
    void moveHead(SerialMachine& there, const Machine& machine, Jogs& jogs, const Work& work);

    Desk& desk_;
    OnBed onBed_;
    QString port_;
    std::optional<LeftCut> left_;
    std::unique_ptr<QLockFile> lock_; // of the folder in which a cut is kept
    PatchSpec patchSpec_;
    // What the marks and the fit are of: one sheet, laid once on one machine. Another, and they are forgotten.
    struct Loading {
        int sheet = 0;
        std::optional<Machine> machine;
        Length x, y;
        QString port;
        bool operator==(const Loading&) const = default;
    };
    Loading loading() const;
    Loading loading_;
    Revision marksOf_ = 0, plannedOf_ = 0;
    int plannedSheet_ = -1;
    std::shared_ptr<There> there_;
    std::shared_ptr<CutControl> control_ = std::make_shared<CutControl>();
    std::shared_ptr<const Job> laidFor_; // the sheet on the stand-in's bed,
    bool sheetCut_ = false;              // and whether it has been cut
    bool jogging_ = false;               // what the line is busy with
    std::shared_ptr<Jogs> jogs_ = std::make_shared<Jogs>();
    Background planner_, line_; // last: their tasks use all of the above
};

} // namespace yokai
