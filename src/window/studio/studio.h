// What the window works on: the job and its history, what follows from it, and
// which piece and station are being looked at.
//
// Views read from here and ask here for changes; they never talk to each other.
#pragma once

#include "studio/hand.h"
#include "studio/worker.h"

#include <QObject>
#include <QString>
#include <QUrl>

#include <functional>
#include <memory>

class QMimeData;
class QThread;

namespace yokai {

enum class Station { Artwork, Keep, CutLines, TouchUp, Bleed, Sheet, HandOff, Cut };
constexpr int stationCount = 8;
bool onSheet(Station station);
QString title(Station station);

struct TestCutResult;

class Studio : public QObject {
    Q_OBJECT
public:
    explicit Studio(QObject* parent = nullptr);
    ~Studio() override;

    const Job& job() const { return job_; }
    // The newest finished result; its job may be a step behind job(). Null until the first.
    const Shown* shown() const { return shown_.get(); }
    std::shared_ptr<const Shown> sharedShown() const { return shown_; }
    bool upToDate() const { return upToDate_; }

    Station station() const { return station_; }
    void setStation(Station station);
    int piece() const { return piece_; } // -1 when the job is empty
    void setPiece(int index);
    const Piece* currentPiece() const;
    const PieceResult* currentResult() const; // of the current piece, if already derived
    const PiecePicture* currentPicture() const;

    const std::vector<int>& selectedParts() const { return selectedParts_; } // indices into Parts::all
    void selectParts(std::vector<int> indices);
    int selectedTouch() const { return selectedTouch_; } // an index into KeepSpec::touches, or -1
    void selectTouch(int index);
    int line() const { return line_; } // the cut line being worked on
    void setLine(int index);

    const Hand& hand() const { return hand_; }
    void setHand(const Hand& hand);
    void hold(Hold hold); // or put it down, when it is in hand already
    Peek peek() const { return peek_; }
    void setPeek(Peek peek);

    Unit unit() const { return unit_; }
    void setUnit(Unit unit);

    // The one way to change the job. Edits with the same non-empty key that follow
    // each other are one undo step until settle() or another edit ends the run.
    void edit(const QString& what, const std::function<void(Job&)>& change, const QString& key = {});
    void editPiece(const QString& what, const std::function<void(Piece&)>& change, const QString& key = {});
    void settle();
    bool canUndo() const { return !undo_.empty(); }
    bool canRedo() const { return !redo_.empty(); }
    QString undoText() const { return undo_.empty() ? QString() : undo_.back().what; }
    QString redoText() const { return redo_.empty() ? QString() : redo_.back().what; }
    void undo();
    void redo();

    // Files and the clipboard. All work in the background and say how it went.
    void openPaths(const QStringList& paths); // pictures are added; a .yokai job replaces
    bool openMime(const QMimeData& data);
    bool canOpen(const QMimeData& data) const;
    void save(const QString& path);
    void newJob();
    QString path() const { return path_; }
    bool modified() const { return modified_; }
    void removePiece(int index);

    // Long work off the window's thread: `task` returns what to say at the end. One at a time.
    void background(const QString& what, std::function<QString(const Work&)> task, std::function<void()> after = {});
    bool busy() const { return busy_; }
    void stop();

    // The last try on the stand-in, while the job is still the one it was made with.
    std::shared_ptr<const TestCutResult> testCut() const { return testCut_; }
    void setTestCut(std::shared_ptr<const TestCutResult> result);

    void say(const QString& text, Severity severity = Severity::Note);

signals:
    void jobChanged();                              // the job, its history or its name
    void shownChanged();                            // a new result
    void viewChanged();                             // station, piece, unit or selection
    void workChanged();                             // busy or idle
    void progressed(double fraction, QString step); // fraction below 0: idle
    void said(QString text, int severity);
    void testCutChanged();

private:
    struct Step {
        Job job;
        QString what, key;
        int piece;
    };
    void travel(std::vector<Step>& from, std::vector<Step>& to); // through the history
    void changed(bool live);
    void request(bool live);
    void findPartsAgain(const PieceResult* before);
    void load(Job job, const QString& path);
    void addPieces(std::vector<Piece> pieces);

    Job job_;
    std::vector<Step> undo_, redo_;
    bool runOpen_ = false; // further edits with the same key join the last step
    std::shared_ptr<const Shown> shown_;
    bool upToDate_ = true, modified_ = false, busy_ = false, deriving_ = false;
    Station station_ = Station::Artwork;
    int piece_ = -1, selectedTouch_ = -1, line_ = 0;
    std::vector<int> selectedParts_;
    Hand hand_;
    Peek peek_ = Peek::Nothing;
    Unit unit_ = Unit::Mm;
    quint64 request_ = 0; // the last one made of the worker
    QString path_;
    std::shared_ptr<const TestCutResult> testCut_;
    std::stop_source task_;
    std::unique_ptr<QThread> taskThread_; // a QThread: serial lines and processes need one
    DeriveWorker* worker_;
};

} // namespace yokai
