#include "studio/studio.h"

#include "formats/project/project.h"

#include <QFileInfo>
#include <QImage>
#include <QMimeData>
#include <QThread>

#include <cstring>
#include <map>

namespace yokai {

bool onSheet(Station station) { return station >= Station::Sheet; }

QString title(Station station)
{
    switch (station) {
    case Station::Artwork:
        return Studio::tr("Artwork");
    case Station::Keep:
        return Studio::tr("Keep");
    case Station::CutLines:
        return Studio::tr("Cut lines");
    case Station::TouchUp:
        return Studio::tr("Touch-up");
    case Station::Bleed:
        return Studio::tr("Bleed");
    case Station::Sheet:
        return Studio::tr("Sheet");
    case Station::HandOff:
        return Studio::tr("Hand-off");
    case Station::Cut:
        return Studio::tr("Cut");
    }
    return {};
}

Studio::Studio(QObject* parent) : QObject(parent), worker_(new DeriveWorker(this))
{
    connect(worker_, &DeriveWorker::finished, this, [this](std::shared_ptr<const Shown> shown) {
        const PieceResult* before = currentResult();
        const std::shared_ptr<const Shown> kept = shown_; // `before` points into it
        shown_ = std::move(shown);
        findPartsAgain(before);
        emit shownChanged();
    });
    connect(worker_, &DeriveWorker::progressed, this, [this](double fraction, const QString& step) {
        if (fraction < 0)
            say(step, Severity::Error);
        else if (deriving_ && !busy_)
            emit progressed(fraction, step);
    });
    connect(worker_, &DeriveWorker::idle, this, [this](quint64 request) {
        if (request != request_)
            return; // asked again meanwhile
        deriving_ = false;
        upToDate_ = true;
        if (!busy_)
            emit progressed(-1, {});
        emit workChanged();
    });
}

Studio::~Studio()
{
    task_.request_stop();
    if (taskThread_)
        taskThread_->wait();
}

void Studio::setStation(Station station)
{
    if (station_ == station)
        return;
    station_ = station;
    settle();
    if (hand_.hold != Hold::Nothing)
        hold(hand_.hold);
    emit viewChanged();
}

void Studio::setPiece(int index)
{
    index = std::clamp(index, job_.pieces.empty() ? -1 : 0, int(job_.pieces.size()) - 1);
    if (index == piece_)
        return;
    piece_ = index;
    selectedParts_.clear();
    selectedTouch_ = -1;
    line_ = 0;
    settle();
    if (hand_.hold != Hold::Nothing)
        hold(hand_.hold);
    emit viewChanged();
}

const Piece* Studio::currentPiece() const { return piece_ >= 0 && piece_ < int(job_.pieces.size()) ? &job_.pieces[std::size_t(piece_)] : nullptr; }

const PieceResult* Studio::currentResult() const
{
    // A result belongs to the piece when it was derived from the same picture.
    if (!currentPiece() || !shown_ || piece_ >= int(shown_->derived.pieces.size()) ||
        shown_->job.pieces[std::size_t(piece_)].artwork.picture.digest != currentPiece()->artwork.picture.digest)
        return nullptr;
    return &shown_->derived.pieces[std::size_t(piece_)];
}

const PiecePicture* Studio::currentPicture() const { return currentResult() ? &shown_->pictures[std::size_t(piece_)] : nullptr; }

void Studio::selectParts(std::vector<int> indices)
{
    if (indices == selectedParts_ && selectedTouch_ < 0)
        return;
    selectedParts_ = std::move(indices);
    selectedTouch_ = -1;
    emit viewChanged();
}

void Studio::selectTouch(int index)
{
    if (index == selectedTouch_ && selectedParts_.empty())
        return;
    selectedTouch_ = index;
    selectedParts_.clear();
    emit viewChanged();
}

// Parts are counted anew with every result; what was selected is known by its place.
void Studio::findPartsAgain(const PieceResult* before)
{
    const PieceResult* now = currentResult();
    if (selectedParts_.empty() || before == now)
        return;
    std::vector<int> found;
    if (before && now && before->parts && now->parts) {
        std::map<std::pair<double, double>, int> places;
        for (std::size_t i = 0; i < now->parts->all.size(); ++i)
            places[{now->parts->all[i].inside.x, now->parts->all[i].inside.y}] = int(i);
        for (const int i : selectedParts_)
            if (i < int(before->parts->all.size()))
                if (const Point p = before->parts->all[std::size_t(i)].inside; places.contains({p.x, p.y}))
                    found.push_back(places[{p.x, p.y}]);
    }
    selectedParts_ = std::move(found);
}

void Studio::setLine(int index)
{
    if (index == line_)
        return;
    line_ = index;
    settle();
    emit viewChanged();
}

void Studio::setHand(const Hand& hand)
{
    if (hand == hand_)
        return;
    const bool framing = (hand.hold == Hold::Frame) != (hand_.hold == Hold::Frame);
    hand_ = hand;
    settle();
    if (framing)
        request(false);
    emit viewChanged();
}

void Studio::hold(Hold hold)
{
    Hand hand = hand_;
    hand.hold = hand_.hold == hold ? Hold::Nothing : hold;
    setHand(hand);
}

void Studio::setPeek(Peek peek)
{
    if (peek == peek_)
        return;
    peek_ = peek;
    emit viewChanged();
}

void Studio::setUnit(Unit unit)
{
    unit_ = unit;
    emit viewChanged();
}

void Studio::edit(const QString& what, const std::function<void(Job&)>& change, const QString& key)
{
    const bool joins = runOpen_ && !key.isEmpty() && !undo_.empty() && undo_.back().key == key;
    if (!joins)
        undo_.push_back({job_, what, key, piece_});
    if (undo_.size() > 500)
        undo_.erase(undo_.begin());
    redo_.clear();
    runOpen_ = !key.isEmpty();
    change(job_);
    changed(!key.isEmpty());
}

void Studio::editPiece(const QString& what, const std::function<void(Piece&)>& change, const QString& key)
{
    if (!currentPiece())
        return;
    edit(
        what, [&](Job& job) { change(job.pieces[std::size_t(piece_)]); }, key);
}

void Studio::settle() { runOpen_ = false; }

void Studio::undo() { travel(undo_, redo_); }
void Studio::redo() { travel(redo_, undo_); }

void Studio::travel(std::vector<Step>& from, std::vector<Step>& to)
{
    if (from.empty())
        return;
    Step step = std::move(from.back());
    from.pop_back();
    to.push_back({job_, step.what, {}, piece_});
    job_ = std::move(step.job);
    runOpen_ = false;
    piece_ = std::min(step.piece, int(job_.pieces.size()) - 1);
    changed(false);
}

void Studio::changed(bool live)
{
    if (piece_ >= int(job_.pieces.size()) || (piece_ < 0 && !job_.pieces.empty()))
        piece_ = int(job_.pieces.size()) - 1;
    modified_ = true;
    upToDate_ = false;
    if (testCut_) {
        testCut_.reset();
        emit testCutChanged();
    }
    if (const Piece* piece = currentPiece()) {
        line_ = std::clamp(line_, 0, std::max(0, int(piece->cutLines.lines.size()) - 1));
        if (selectedTouch_ >= int(piece->keep.touches.size()))
            selectedTouch_ = -1;
    }
    request(live);
    emit jobChanged();
    emit workChanged();
}

void Studio::request(bool live)
{
    deriving_ = true;
    upToDate_ = false;
    if (hand_.hold == Hold::Frame && currentPiece()) {
        // The frame is set on the whole picture.
        Job whole = job_;
        whole.pieces[std::size_t(piece_)].artwork.crop.reset();
        request_ = worker_->request(whole, live);
    } else {
        request_ = worker_->request(job_, live);
    }
}

void Studio::load(Job job, const QString& path)
{
    job_ = std::move(job);
    undo_.clear();
    redo_.clear();
    runOpen_ = false;
    path_ = path;
    piece_ = job_.pieces.empty() ? -1 : 0;
    station_ = job_.pieces.empty() ? Station::Artwork : Station::CutLines;
    selectedParts_.clear();
    selectedTouch_ = -1;
    line_ = 0;
    hand_.hold = Hold::Nothing;
    shown_.reset();
    changed(false);
    modified_ = false;
    emit shownChanged();
    emit jobChanged();
    emit viewChanged();
}

void Studio::newJob() { load(Job{}, {}); }

void Studio::addPieces(std::vector<Piece> pieces)
{
    if (pieces.empty())
        return;
    const int first = int(job_.pieces.size());
    // The first picture shows at once what it is all about.
    const Station next = first == 0 ? Station::CutLines : onSheet(station_) ? Station::Artwork : station_;
    const QString what =
        pieces.size() == 1 ? tr("add %1").arg(QString::fromStdString(pieces.front().name)) : tr("add %n pictures", nullptr, int(pieces.size()));
    edit(what, [&](Job& job) {
        if (job.pieces.empty() && job.name == Job{}.name)
            job.name = pieces.front().name;
        for (Piece& p : pieces)
            job.pieces.push_back(std::move(p));
    });
    setPiece(first);
    setStation(next);
    emit viewChanged();
}

void Studio::openPaths(const QStringList& paths)
{
    struct Opened {
        std::optional<Job> job;
        QString jobPath;
        std::vector<Piece> pieces;
        QStringList failures;
    };
    auto opened = std::make_shared<Opened>();
    background(
        tr("Opening"),
        [paths, opened](const Work& work) -> QString {
            for (qsizetype i = 0; i < paths.size(); ++i) {
                work.report(double(i) / double(paths.size()), QFileInfo(paths[i]).fileName().toStdString());
                const std::filesystem::path path = paths[i].toStdString();
                try {
                    if (path.extension() == ".yokai") {
                        opened->job = openProject(path);
                        opened->jobPath = QFileInfo(paths[i]).absoluteFilePath();
                        continue;
                    }
                    Piece piece;
                    piece.artwork.picture = openPicture(path);
                    piece.name = path.stem().string();
                    opened->pieces.push_back(std::move(piece));
                } catch (const Error& e) {
                    opened->failures << QString::fromUtf8(e.what());
                }
            }
            return {};
        },
        [this, opened] {
            if (opened->job)
                load(std::move(*opened->job), opened->jobPath);
            if (opened->pieces.size() == 1 && opened->pieces[0].artwork.picture.info.ppiFrom == PpiSource::Assumed)
                say(tr("'%1' says no resolution; 300 ppi is assumed. Type its true width under Artwork.")
                        .arg(QString::fromStdString(opened->pieces[0].artwork.picture.fileName)));
            addPieces(std::move(opened->pieces));
            if (!opened->failures.isEmpty())
                say(opened->failures.join(QLatin1Char('\n')), Severity::Error);
        });
}

bool Studio::canOpen(const QMimeData& data) const { return data.hasUrls() || data.hasImage(); }

bool Studio::openMime(const QMimeData& data)
{
    if (data.hasUrls()) {
        QStringList paths;
        for (const QUrl& url : data.urls())
            if (url.isLocalFile())
                paths << url.toLocalFile();
        if (!paths.isEmpty()) {
            openPaths(paths);
            return true;
        }
    }
    if (!data.hasImage())
        return false;
    const QImage image = qvariant_cast<QImage>(data.imageData());
    if (image.isNull())
        return false;
    auto pieces = std::make_shared<std::vector<Piece>>();
    background(
        tr("Pasting"),
        [image, pieces](const Work&) -> QString {
            // Screens claim 96 dots an inch for every picture; that is no statement about its size.
            const QImage plain = image.convertToFormat(QImage::Format_RGBA8888);
            Rgba8 pixels(plain.width(), plain.height());
            for (int y = 0; y < plain.height(); ++y)
                std::memcpy(pixels.row(y), plain.constScanLine(y), std::size_t(plain.width()) * sizeof(Rgba));
            Piece piece;
            piece.name = "Pasted picture";
            piece.artwork.picture = pictureFromBytes(encodePng(pixels), "pasted.png");
            pieces->push_back(std::move(piece));
            return {};
        },
        [this, pieces] {
            addPieces(std::move(*pieces));
            say(tr("Pasted at 300 ppi, since the clipboard says no size. Type its true width under Artwork."));
        });
    return true;
}

void Studio::save(const QString& path)
{
    const Job job = job_;
    background(
        tr("Saving"),
        [job, path](const Work&) {
            saveProject(job, path.toStdString());
            return tr("Saved %1").arg(QFileInfo(path).fileName());
        },
        [this, path] {
            path_ = QFileInfo(path).absoluteFilePath();
            modified_ = false;
            emit jobChanged();
        });
}

void Studio::removePiece(int index)
{
    if (index < 0 || index >= int(job_.pieces.size()))
        return;
    edit(tr("remove %1").arg(QString::fromStdString(job_.pieces[std::size_t(index)].name)), [&](Job& job) { job.pieces.erase(job.pieces.begin() + index); });
    emit viewChanged();
}

void Studio::background(const QString& what, std::function<QString(const Work&)> task, std::function<void()> after)
{
    if (busy_) {
        say(tr("Something else is still under way; wait for it or stop it."), Severity::Warning);
        return;
    }
    if (taskThread_)
        taskThread_->wait();
    busy_ = true;
    task_ = std::stop_source();
    Work work;
    work.stop = task_.get_token();
    work.progress = [this, what](double fraction, std::string_view step) {
        const QString text = what + QStringLiteral(" \u00b7 ") + QString::fromUtf8(step.data(), qsizetype(step.size()));
        QMetaObject::invokeMethod(this, [this, fraction, text] {
            if (busy_)
                emit progressed(fraction, text);
        });
    };
    emit workChanged();
    emit progressed(0, what);
    taskThread_.reset(QThread::create([this, work, task = std::move(task), after = std::move(after)] {
        QString text;
        Severity severity = Severity::Note;
        bool done = false;
        try {
            text = task(work);
            done = true;
        } catch (const Cancelled&) {
            text = tr("Stopped; nothing was changed.");
        } catch (const std::bad_alloc&) {
            text = tr("There is not enough memory for this; close other programs or use smaller pictures.");
            severity = Severity::Error;
        } catch (const std::exception& e) {
            text = QString::fromUtf8(e.what());
            severity = Severity::Error;
        }
        QMetaObject::invokeMethod(this, [this, text, severity, done, after] {
            busy_ = false;
            emit progressed(-1, {});
            if (done && after)
                after();
            if (!text.isEmpty())
                say(text, severity);
            emit workChanged();
        });
    }));
    taskThread_->start();
}

void Studio::stop()
{
    task_.request_stop();
    if (deriving_)
        worker_->stop();
}

void Studio::setTestCut(std::shared_ptr<const TestCutResult> result)
{
    testCut_ = std::move(result);
    emit testCutChanged();
}

void Studio::say(const QString& text, Severity severity) { emit said(text, int(severity)); }

} // namespace yokai
