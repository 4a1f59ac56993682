// What the window works on: the job and its history, what follows from it, and what is
// being looked at.
//
// Views read from here and ask here for changes; they never talk to each other.
#pragma once

#include "desk/background.h"
#include "desk/hand.h"
#include "desk/history.h"
#include "desk/selection.h"
#include "desk/station.h"
#include "desk/worker.h"

#include <QObject>
#include <QString>

#include <functional>
#include <memory>
#include <optional>

namespace yokai {

class Machining;
struct TestCutResult;

Job freshJob(); // on the machine this computer's makers cut with

class Desk : public QObject {
    Q_OBJECT
public:
    explicit Desk(QObject* parent = nullptr);
    ~Desk() override;

    // The job as it is seen: with what is being tried out, if anything is.
    const Job& job() const { return draft_ ? draft_->job : history_.job(); }
    Revision revision() const { return draft_ ? draft_->revision : history_.revision(); }

    // The newest finished result; it may be of a job before this one. Null until the first.
    const Shown* shown() const { return shown_.get(); }
    std::shared_ptr<const Shown> sharedShown() const { return shown_; }
    // Whether it is what was last asked for, and whether it may be written, printed and cut.
    bool upToDate() const { return shown_ && shown_->revision == revision() && shown_->uncropped == uncropped() && !(wantsSheet() && shown_->derived.sheet.waits); }
    bool current() const { return upToDate() && !draft_ && shown_->uncropped == PieceId{} && !shown_->nesting; }
    bool stalled() const { return !upToDate() && !deriving_; } // stopped by hand: nothing is under way
    void resume();

    Station station() const { return station_; }
    void setStation(Station station);
    int sheet() const; // the one that is looked at, of those that are shown
    void setSheet(int sheet);
    int piece() const; // the current one's place in the job; -1 when the job is empty
    void setPiece(int index);
    const Piece* currentPiece() const { return find(job(), piece_); }
    const Layer* currentLayer() const; // the one worked on: the uppermost, unless another was chosen
    LayerId layerId() const { return currentLayer() ? currentLayer()->id : LayerId{}; }
    void setLayer(LayerId layer);
    const PieceResult* currentResult() const; // of the current piece, if already derived from this picture
    const LayerResult* layerResult() const;   // of its layer; null where the chain did not get to it
    const PiecePicture* currentPicture() const;
    const LineSpec* currentLine() const; // the cut line being worked on
    int line() const;                    // its place among the layer's, or -1
    void setLine(int index);
    const CutLine* lineResult() const;

    const Selection& selection() const { return selection_; }
    void select(Selection selection);
    std::vector<int> selectedParts() const; // indices into Parts::all
    const Touch* selectedTouch() const;

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
    void editLayer(const QString& what, const std::function<void(Layer&)>& change, const QString& key = {});
    void editLine(const QString& what, const std::function<void(LineSpec&)>& change, const QString& key = {});
    void settle() { history_.settle(); }
    // A gesture tries a change out, as often as it likes, always from the job before it; then
    // keeps it as one step, or drops it and leaves the job as it was.
    void tryOut(const std::function<void(Job&)>& change);
    void keep(const QString& what);
    void drop();
    bool trying() const { return draft_.has_value(); }

    const History& history() const { return history_; }
    void undo();
    void redo();
    bool modified() const { return history_.revision() != saved_; }
    void removePiece(int index);
    void duplicatePiece();

    // A whole other job, and where it was read from.
    void start(Job job, const QString& path);
    QString path() const { return path_; }
    void wasSaved(const QString& path, Revision revision);

    Background& background() { return background_; }
    const Background& background() const { return background_; }
    bool busy() const { return background_.busy(); }
    void stop();

    Machining& machining() { return *machining_; }
    const Machining& machining() const { return *machining_; }

    // The last try on the stand-in, while the job is still the one it was made with.
    std::shared_ptr<const TestCutResult> testCut() const { return testCutOf_ == revision() ? testCut_ : nullptr; }
    void setTestCut(std::shared_ptr<const TestCutResult> result, Revision of);

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
    struct Draft {
        Job job;
        Revision revision;
    };
    bool wantsSheet() const { return onSheet(station_); } // nothing is nested while nobody looks
    PieceId uncropped() const; // the piece whose frame is being set: it is shown whole
    void changed(bool live, const Job& before);
    void request(bool live);
    void findPartsAgain(const PieceResult* before);
    void lookAt(PieceId piece);
    void show();

    History history_;
    std::optional<Draft> draft_;
    std::shared_ptr<const Shown> shown_;
    Revision saved_ = 0, testCutOf_ = 0;
    bool deriving_ = false;
    int sheet_ = 0;
    Station station_ = Station::Artwork;
    PieceId piece_;
    LayerId layer_;
    LineId line_;
    Selection selection_;
    Hand hand_;
    Peek peek_ = Peek::Nothing;
    Unit unit_ = Unit::Mm;
    quint64 request_ = 0; // the last one made of the worker
    QString path_;
    std::shared_ptr<const TestCutResult> testCut_;
    DeriveWorker* worker_;
    std::unique_ptr<Machining> machining_;
    Background background_; // last: its tasks may use all of the above
};

} // namespace yokai
