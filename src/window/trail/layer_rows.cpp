#include "trail/layer_rows.h"

#include "desk/layer_edits.h"
#include "job/colour_layers.h"
#include "theme/theme.h"
#include "words.h"

#include <QKeyEvent>

#include <algorithm>
#include <cmath>
#include <utility>

namespace yokai {

namespace {

QColor toQt(Rgba c) { return {c.r, c.g, c.b}; }

void paintSwatch(QPainter& p, const QRectF& at, const QColor& colour, bool offered)
{
    const double side = at.width();
    p.setPen(QPen(theme::colours().line, 1, offered ? Qt::DashLine : Qt::SolidLine));
    p.setBrush(colour);
    p.setOpacity(offered ? 0.6 : 1);
    p.drawRoundedRect(QRectF(at.left(), at.center().y() - side / 2, side, side), 3, 3);
}

// "1408 mm2 · 1": how large it is, and in how many parts.
QString figuresOf(const LayerResult& layer, Unit unit)
{
    double area = 0;
    for (const Part& part : layer.parts->all)
        area += part.kept && !part.opening ? part.area : 0;
    return layer.parts->keptParts == 0 ? LayerRows::tr("nothing of it") : areaText(area, unit) + QStringLiteral(" \u00b7 ") + QString::number(layer.parts->keptParts);
}

} // namespace

LayerRows::LayerRows(Desk& desk, QWidget* parent) : DrawnList("layer-rows", tr("Layers"), 16, parent), desk_(desk)
{
    setToolTip(tr("The layers as they lie, the uppermost first. Drag one to move it, or Alt with the arrow keys; Delete drops it, M merges it into the one below"));
}

std::vector<ListRow> LayerRows::rows() const
{
    std::vector<ListRow> out;
    const Piece* piece = desk_.currentPiece();
    if (!piece)
        return out;
    const PieceResult* result = desk_.currentResult();
    const auto swatch = [](Rgba colour, bool offered) { return [colour = toQt(colour), offered](QPainter& p, const QRectF& at) { paintSwatch(p, at, colour, offered); }; };
    for (auto layer = piece->layers.rbegin(); layer != piece->layers.rend(); ++layer) {
        const LayerResult* r = result ? &result->layer(layer->id) : nullptr;
        out.push_back({QString::fromStdString(layer->name), r && r->parts ? figuresOf(*r, desk_.unit()) : QString(), layer->id == desk_.layerId(), false,
                       swatch(stockOf(*layer).value_or(Rgba{}), false)});
    }
    for (const std::size_t k : edits::coloursInNoLayer(desk_)) {
        const Rgba c = result->split->colours[k].colour;
        out.push_back({QString::fromStdString(wordFor(c)), tr("in no layer, add"), false, true, swatch(c, true)});
    }
    return out;
}

const Layer* LayerRows::layerAt(int index) const
{
    const Piece* piece = desk_.currentPiece();
    const int count = piece ? int(piece->layers.size()) : 0;
    return index >= 0 && index < count ? &piece->layers[std::size_t(count - 1 - index)] : nullptr;
}

void LayerRows::pressPart(int index)
{
    if (const Layer* layer = layerAt(index))
        return desk_.setLayer(layer->id);
    const Piece* piece = desk_.currentPiece();
    const auto others = edits::coloursInNoLayer(desk_);
    const int other = piece ? index - int(piece->layers.size()) : -1;
    if (other >= 0 && other < int(others.size()))
        edits::addColours(desk_, {others[std::size_t(other)]});
}

void LayerRows::paintEvent(QPaintEvent* event)
{
    DrawnList::paintEvent(event);
    if (gap_ < 0)
        return;
    QPainter p(this);
    p.setPen(QPen(theme::colours().accent, 2));
    p.drawLine(QPointF(4, top(gap_)), QPointF(width() - 4, top(gap_)));
}

void LayerRows::mousePressEvent(QMouseEvent* event)
{
    if (event->button() != Qt::LeftButton)
        return;
    down_ = true;
    pressed_ = event->position();
    DrawnList::mousePressEvent(event);
}

int LayerRows::gapAt(double y) const
{
    const int layers = desk_.currentPiece() ? int(desk_.currentPiece()->layers.size()) : 0;
    return std::clamp(int(std::lround((y - top(0)) / (top(1) - top(0)))), 0, layers);
}

void LayerRows::mouseMoveEvent(QMouseEvent* event)
{
    constexpr double far = 5; // px: less is a press
    if (!down_)
        return;
    if (const Layer* from = layerAt(indexAt(pressed_.y())); from && !dragged_ && (event->position() - pressed_).manhattanLength() > far)
        dragged_ = from->id;
    gap_ = dragged_ ? gapAt(event->position().y()) : -1;
    update();
}

void LayerRows::mouseReleaseEvent(QMouseEvent*)
{
    down_ = false;
    const LayerId dragged = std::exchange(dragged_, LayerId{});
    const int gap = std::exchange(gap_, -1);
    update();
    const Piece* piece = desk_.currentPiece();
    if (!dragged || gap < 0 || !piece)
        return;
    const int count = int(piece->layers.size());
    const auto at = std::find_if(piece->layers.begin(), piece->layers.end(), [&](const Layer& l) { return l.id == dragged; });
    if (at == piece->layers.end())
        return;
    // Rows count from the top, layers from the bottom; what is moved is taken out first.
    const int was = int(at - piece->layers.begin()), to = count - gap;
    edits::moveLayer(desk_, dragged, to > was ? to - 1 : to);
}

void LayerRows::step(int by)
{
    const int count = desk_.currentPiece() ? int(desk_.currentPiece()->layers.size()) : 0;
    for (int k = 0; k < count; ++k)
        if (layerAt(k)->id == desk_.layerId()) {
            if (const Layer* to = layerAt(k + by))
                desk_.setLayer(to->id);
            return;
        }
}

void LayerRows::remove() { edits::dropLayer(desk_, desk_.layerId()); }

void LayerRows::move(int by)
{
    const Piece* piece = desk_.currentPiece();
    for (std::size_t k = 0; piece && k < piece->layers.size(); ++k)
        if (piece->layers[k].id == desk_.layerId()) {
            edits::moveLayer(desk_, desk_.layerId(), int(k) - by); // down the rows is down the stack
            return;
        }
}

void LayerRows::keyPressEvent(QKeyEvent* event)
{
    const int by = event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Up ? -1 : 0;
    if (event->key() == Qt::Key_M)
        edits::mergeDown(desk_);
    else if (by != 0 && event->modifiers() & Qt::AltModifier)
        move(by);
    else
        DrawnList::keyPressEvent(event);
}

} // namespace yokai
