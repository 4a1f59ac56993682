#include "desk/desk.h"

#include "desk/machining.h"
#include "desk/operation_edits.h"

#include <algorithm>
#include <map>

namespace yokai {

Job freshJob()
{
    Job job;
    if (const auto machine = edits::usualMachine())
        edits::putMachine(job, machine);
    return job;
}

Desk::Desk(QObject* parent) : QObject(parent), worker_(new DeriveWorker(this))
{
    history_.start(freshJob());
    saved_ = history_.revision();
    connect(worker_, &DeriveWorker::finished, this, &Desk::show);
    connect(worker_, &DeriveWorker::progressed, this, [this](double fraction, const QString& step) {
        if (deriving_ && !busy())
            emit progressed(fraction, step);
    });
    connect(worker_, &DeriveWorker::failed, this, [this](const QString& why) { say(why, Severity::Error); });
    connect(worker_, &DeriveWorker::idle, this, [this](quint64 request) {
        if (request != request_)
            return; // asked again meanwhile
        deriving_ = false;
        if (!busy())
            emit progressed(-1, {});
        emit workChanged();
    });
    connect(&background_, &Background::progressed, this, &Desk::progressed);
    connect(&background_, &Background::changed, this, &Desk::workChanged);
    connect(&background_, &Background::said, this, &Desk::said);
    machining_ = std::make_unique<Machining>(*this);
    connect(machining_.get(), &Machining::said, this, &Desk::said);
}

Desk::~Desk() = default;

void Desk::show()
{
    std::shared_ptr<const Shown> shown = worker_->take();
    if (!shown)
        return;
    const PieceResult* before = currentResult();
    const std::shared_ptr<const Shown> kept = shown_; // `before` points into it
    shown_ = std::move(shown);
    findPartsAgain(before);
    if (wantsSheet() && shown_->derived.sheet.waits) // it was asked for where no sheet is seen
        request(false);
    emit shownChanged();
}

void Desk::setStation(Station station)
{
    if (station_ == station)
        return;
    drop();
    station_ = station;
    settle();
    if (hand_.hold != Hold::Nothing)
        hold(hand_.hold);
    if (wantsSheet() && shown_ && shown_->derived.sheet.waits)
        request(false);
    emit viewChanged();
}

int Desk::sheet() const { return shown_ ? std::clamp(sheet_, 0, shown_->derived.sheet.sheets - 1) : 0; }

void Desk::setSheet(int sheet)
{
    if (sheet == sheet_)
        return;
    sheet_ = sheet;
    emit viewChanged();
}

int Desk::piece() const
{
    const auto& pieces = job().pieces;
    const auto found = std::find_if(pieces.begin(), pieces.end(), [&](const Piece& p) { return p.id == piece_; });
    return found == pieces.end() ? -1 : int(found - pieces.begin());
}

void Desk::setPiece(int index)
{
    if (job().pieces.empty())
        return;
    const PieceId wanted = job().pieces[std::size_t(std::clamp(index, 0, int(job().pieces.size()) - 1))].id;
    if (wanted == piece_)
        return;
    drop();
    lookAt(wanted);
    settle();
    if (hand_.hold != Hold::Nothing)
        hold(hand_.hold);
    emit viewChanged();
}

void Desk::lookAt(PieceId piece)
{
    if (piece == piece_)
        return;
    piece_ = piece;
    layer_ = {};
    selection_ = {};
    line_ = {};
}

const PieceResult* Desk::currentResult() const
{
    const Piece* piece = currentPiece();
    if (!piece || !shown_)
        return nullptr;
    // A result belongs to the piece when it was derived from the same picture, seen the same way.
    const Piece* then = find(shown_->job, piece_);
    return then && then->artwork.picture.digest == piece->artwork.picture.digest && then->artwork.tilt == piece->artwork.tilt ? shown_->derived.find(piece_) : nullptr;
}

const LayerResult* Desk::layerResult() const
{
    const PieceResult* result = currentResult();
    if (!result)
        return nullptr;
    const LayerResult& layer = result->layer(layerId());
    return layer.id ? &layer : nullptr;
}

const Layer* Desk::currentLayer() const
{
    const Piece* piece = currentPiece();
    if (!piece)
        return nullptr;
    const auto found = std::find_if(piece->layers.begin(), piece->layers.end(), [this](const Layer& l) { return l.id == layer_; });
    return found == piece->layers.end() ? &piece->layers.back() : &*found;
}

void Desk::setLayer(LayerId layer)
{
    if (layer == layerId())
        return;
    drop();
    layer_ = layer;
    line_ = {};
    selection_ = {};
    settle();
    emit viewChanged();
}

const PiecePicture* Desk::currentPicture() const
{
    const PieceResult* result = currentResult();
    return result ? &shown_->pictures[std::size_t(result - shown_->derived.pieces.data())] : nullptr;
}

int Desk::line() const
{
    const Layer* layer = currentLayer();
    if (!layer || layer->lines.empty())
        return -1;
    const auto found = std::find_if(layer->lines.begin(), layer->lines.end(), [&](const LineSpec& l) { return l.id == line_; });
    return found == layer->lines.end() ? 0 : int(found - layer->lines.begin());
}

const LineSpec* Desk::currentLine() const
{
    const int at = line();
    return at < 0 ? nullptr : &currentLayer()->lines[std::size_t(at)];
}

const CutLine* Desk::lineResult() const
{
    const LineSpec* spec = currentLine();
    const LayerResult* result = layerResult();
    if (spec && result)
        for (const CutLine& line : result->lines)
            if (line.id == spec->id)
                return &line;
    return nullptr;
}

void Desk::setLine(int index)
{
    const Layer* layer = currentLayer();
    if (!layer || index < 0 || index >= int(layer->lines.size()) || layer->lines[std::size_t(index)].id == line_)
        return;
    line_ = layer->lines[std::size_t(index)].id;
    settle();
    emit viewChanged();
}

void Desk::select(Selection selection)
{
    if (auto* parts = std::get_if<PartsSelected>(&selection); parts && parts->parts.empty())
        selection = {};
    if (selection == selection_)
        return;
    // What is found is shown on its own layer.
    if (const auto* finding = std::get_if<FindingSelected>(&selection); finding && currentPiece() && finding->piece == currentPiece()->id)
        for (const Layer& layer : currentPiece()->layers)
            if (std::any_of(layer.lines.begin(), layer.lines.end(), [&](const LineSpec& l) { return l.id == finding->line; }))
                layer_ = layer.id;
    selection_ = std::move(selection);
    emit viewChanged();
}

std::vector<int> Desk::selectedParts() const
{
    const auto* parts = std::get_if<PartsSelected>(&selection_);
    return parts ? parts->parts : std::vector<int>{};
}

const Touch* Desk::selectedTouch() const
{
    const auto* edit = std::get_if<EditSelected>(&selection_);
    if (edit && currentLayer())
        for (const Touch& touch : currentLayer()->keep.touches)
            if (touch.id == edit->edit)
                return &touch;
    return nullptr;
}

// Parts are counted anew with every result; what was selected is known by its place.
void Desk::findPartsAgain(const PieceResult* before)
{
    auto* selected = std::get_if<PartsSelected>(&selection_);
    const PieceResult* now = currentResult();
    if (!selected || before == now)
        return;
    std::vector<int> found;
    if (before && now && before->id == now->id && before->layer(layerId()).parts && now->layer(layerId()).parts) {
        const auto& then = before->layer(layerId()).parts->all;
        const auto& parts = now->layer(layerId()).parts->all;
        std::map<std::pair<double, double>, int> places;
        for (std::size_t i = 0; i < parts.size(); ++i)
            places[{parts[i].inside.x, parts[i].inside.y}] = int(i);
        for (const int i : selected->parts)
            if (i < int(then.size()))
                if (const auto at = places.find({then[std::size_t(i)].inside.x, then[std::size_t(i)].inside.y}); at != places.end())
                    found.push_back(at->second);
    }
    if (found.empty())
        selection_ = {};
    else
        selected->parts = std::move(found);
}

void Desk::setHand(const Hand& hand)
{
    if (hand == hand_)
        return;
    const PieceId framing = uncropped();
    hand_ = hand;
    settle();
    if (uncropped() != framing)
        request(false);
    emit viewChanged();
}

void Desk::hold(Hold hold)
{
    Hand hand = hand_;
    hand.hold = hand_.hold == hold ? Hold::Nothing : hold;
    hand.sketch = {};
    hand.measured.reset();
    hand.corners.reset();
    setHand(hand);
}

void Desk::setPeek(Peek peek)
{
    if (peek == peek_)
        return;
    peek_ = peek;
    emit viewChanged();
}

void Desk::setUnit(Unit unit)
{
    // A tab that was left as it came is as it would have come.
    if (Hand::TabSizes{hand_.tab, hand_.tabHole} == Hand::usualTab(unit_)) {
        hand_.tab = Hand::usualTab(unit).across;
        hand_.tabHole = Hand::usualTab(unit).hole;
    }
    unit_ = unit;
    emit viewChanged();
}

void Desk::edit(const QString& what, const std::function<void(Job&)>& change, const QString& key)
{
    drop();
    const Job before = history_.job();
    if (history_.edit(what, change, key))
        changed(!key.isEmpty(), before);
}

void Desk::editPiece(const QString& what, const std::function<void(Piece&)>& change, const QString& key)
{
    edit(
        what,
        [&](Job& job) {
            if (Piece* piece = find(job, piece_))
                change(*piece);
        },
        key);
}

void Desk::editLayer(const QString& what, const std::function<void(Layer&)>& change, const QString& key)
{
    editPiece(
        what,
        [&, id = layerId()](Piece& piece) {
            for (Layer& layer : piece.layers)
                if (layer.id == id)
                    return change(layer);
        },
        key);
}

void Desk::editLine(const QString& what, const std::function<void(LineSpec&)>& change, const QString& key)
{
    const int at = line();
    editLayer(
        what,
        [&](Layer& layer) {
            if (at >= 0 && at < int(layer.lines.size()))
                change(layer.lines[std::size_t(at)]);
        },
        key);
}

void Desk::tryOut(const std::function<void(Job&)>& change)
{
    Job tried = history_.job();
    change(tried);
    giveIds(tried);
    if (tried == job())
        return;
    const Job before = job();
    draft_ = Draft{std::move(tried), history_.fresh()};
    changed(true, before);
}

void Desk::keep(const QString& what)
{
    if (!draft_)
        return;
    const Job tried = std::move(draft_->job);
    draft_.reset();
    history_.edit(what, [&](Job& job) { job = tried; });
    changed(false, tried);
}

void Desk::drop()
{
    if (!draft_)
        return;
    const Job tried = std::move(draft_->job);
    draft_.reset();
    changed(false, tried);
}

void Desk::undo()
{
    drop();
    const Job before = history_.job();
    if (history_.undo())
        changed(false, before);
}

void Desk::redo()
{
    drop();
    const Job before = history_.job();
    if (history_.redo())
        changed(false, before);
}

void Desk::changed(bool live, const Job& before)
{
    const auto& pieces = job().pieces;
    // What the change was about is looked at: undo may reach a piece that is not on the bench.
    if (pieces.size() == before.pieces.size())
        for (std::size_t i = 0; i < pieces.size(); ++i)
            if (pieces[i].id == before.pieces[i].id && !(pieces[i] == before.pieces[i])) {
                if (!(find(before, piece_) && find(job(), piece_)) || *find(before, piece_) == *find(job(), piece_))
                    lookAt(pieces[i].id);
                break;
            }
    if (!currentPiece()) {
        const auto gone = std::find_if(before.pieces.begin(), before.pieces.end(), [&](const Piece& p) { return p.id == piece_; });
        const auto at = std::min<std::size_t>(std::size_t(gone - before.pieces.begin()), pieces.empty() ? 0 : pieces.size() - 1);
        lookAt(pieces.empty() ? PieceId{} : pieces[at].id);
    }
    if (std::holds_alternative<EditSelected>(selection_) && !selectedTouch())
        selection_ = {};
    request(live);
    emit jobChanged();
    emit testCutChanged();
    emit workChanged();
}

PieceId Desk::uncropped() const { return hand_.hold == Hold::Frame && currentPiece() ? piece_ : PieceId{}; }

void Desk::request(bool live)
{
    deriving_ = true;
    Job asked = job();
    if (Piece* whole = find(asked, uncropped())) // the frame is set on the whole picture
        whole->artwork.crop.reset();
    request_ = worker_->request(std::move(asked), revision(), uncropped(), live, wantsSheet());
}

void Desk::resume()
{
    if (stalled())
        request(false);
    emit workChanged();
}

void Desk::start(Job job, const QString& path)
{
    draft_.reset();
    const Job before = history_.job();
    history_.start(std::move(job));
    saved_ = history_.revision();
    path_ = path;
    sheet_ = 0;
    piece_ = history_.job().pieces.empty() ? PieceId{} : history_.job().pieces.front().id;
    station_ = history_.job().pieces.empty() ? Station::Artwork : Station::CutLines;
    selection_ = {};
    layer_ = {};
    line_ = {};
    hand_.hold = Hold::Nothing;
    shown_.reset();
    changed(false, Job{});
    emit shownChanged();
    emit viewChanged();
}

void Desk::wasSaved(const QString& path, Revision revision)
{
    path_ = path;
    saved_ = revision;
    emit jobChanged();
}

void Desk::removePiece(int index)
{
    if (index < 0 || index >= int(job().pieces.size()))
        return;
    edit(tr("remove %1").arg(QString::fromStdString(job().pieces[std::size_t(index)].name)), [&](Job& job) {
        const PieceId gone = job.pieces[std::size_t(index)].id;
        job.pieces.erase(job.pieces.begin() + index);
        std::erase_if(job.placings, [&](const Placing& p) { return p.piece == gone; });
    });
    emit viewChanged();
}

void Desk::duplicatePiece()
{
    const int at = piece();
    if (at < 0)
        return;
    edit(tr("duplicate %1").arg(QString::fromStdString(currentPiece()->name)),
         [&](Job& job) {
             Piece copy = job.pieces[std::size_t(at)];
             copy.features.clear(); // the thing is there once
             job.pieces.insert(job.pieces.begin() + at + 1, std::move(copy));
         });
    setPiece(at + 1);
}

void Desk::stop()
{
    background_.stop();
    if (deriving_)
        worker_->stop();
}

void Desk::setTestCut(std::shared_ptr<const TestCutResult> result, Revision of)
{
    testCut_ = std::move(result);
    testCutOf_ = of;
    emit testCutChanged();
}

void Desk::say(const QString& text, Severity severity) { emit said(text, int(severity)); }

} // namespace yokai
