#include "trail/layer_rows.h"

#include "desk/layer_edits.h"
#include "job/colour_layers.h"
#include "theme/theme.h"
#include "words.h"

#include <QKeyEvent>
#include <QPainter>

namespace yokai {

namespace {
int layerRowHeight() { return theme::px(28); }
QColor toQt(Rgba c) { return {c.r, c.g, c.b}; }
} // namespace

LayerRows::LayerRows(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk)
{
    setObjectName("layer-rows");
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    setAccessibleName(tr("Layers"));
    setToolTip(tr("The layers as they lie, the uppermost first. Drag one to move it, or Alt with the arrow keys; Delete drops it, M merges it into the one below"));
}

void LayerRows::refresh()
{
    updateGeometry();
    tellParts(this);
    update();
}

std::vector<LayerRows::Shown> LayerRows::rows() const
{
    std::vector<Shown> out;
    const Piece* piece = desk_.currentPiece();
    if (!piece)
        return out;
    const PieceResult* result = desk_.currentResult();
    for (auto layer = piece->layers.rbegin(); layer != piece->layers.rend(); ++layer) {
        Shown shown{QString::fromStdString(layer->name), {}, toQt(stockOf(*layer).value_or(Rgba{})), layer->id};
        if (const LayerResult* r = result ? &result->layer(layer->id) : nullptr; r && r->parts) {
            double area = 0;
            for (const Part& part : r->parts->all)
                area += part.kept != part.opening ? (part.opening ? 0 : part.area) : 0;
            shown.figures = r->parts->keptParts == 0 ? tr("nothing of it") : areaText(area, desk_.unit()) + QStringLiteral(" \u00b7 ") + QString::number(r->parts->keptParts);
        }
        out.push_back(std::move(shown));
    }
    for (const std::size_t k : edits::coloursInNoLayer(desk_)) {
        const Rgba c = result->split->colours[k].colour;
        out.push_back({QString::fromStdString(wordFor(c)), tr("in no layer, add"), toQt(c), {}, k});
    }
    return out;
}

QSize LayerRows::sizeHint() const { return {120, std::max(1, int(rows().size())) * layerRowHeight() + 2}; }

QRect LayerRows::row(int index) const { return {3, 1 + index * layerRowHeight() + 2, width() - 6, layerRowHeight() - 4}; }

std::vector<DrawnPart> LayerRows::drawnParts() const
{
    std::vector<DrawnPart> out;
    for (const Shown& shown : rows())
        out.push_back({shown.name + QStringLiteral(", ") + shown.figures, row(int(out.size())), QAccessible::ListItem, shown.layer && shown.layer == desk_.layerId()});
    return out;
}

void LayerRows::pressPart(int index)
{
    const std::vector<Shown> all = rows();
    if (index < 0 || index >= int(all.size()))
        return;
    if (all[std::size_t(index)].layer)
        desk_.setLayer(all[std::size_t(index)].layer);
    else
        edits::addColours(desk_, {all[std::size_t(index)].inNone});
}

void LayerRows::paintEvent(QPaintEvent*)
{
    const auto& c = theme::colours();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(hasFocus() ? c.accent : c.line, 1));
    p.setBrush(c.field);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    int index = 0;
    for (const Shown& shown : rows()) {
        const QRectF at = row(index++);
        const bool chosen = shown.layer && shown.layer == desk_.layerId();
        if (chosen) {
            p.setPen(Qt::NoPen);
            p.setBrush(c.accentSoft);
            p.drawRoundedRect(at, 3, 3);
        }
        const double side = theme::px(16);
        const QRectF swatch(at.left() + 8, at.center().y() - side / 2, side, side);
        p.setPen(QPen(c.line, 1, shown.layer ? Qt::SolidLine : Qt::DashLine));
        p.setBrush(shown.colour);
        p.setOpacity(shown.layer ? 1 : 0.6);
        p.drawRoundedRect(swatch, 3, 3);
        p.setOpacity(1);
        const QRectF text = at.adjusted(8 + side + 8, 0, -8, 0);
        p.setFont(theme::font(12));
        const double figures = p.fontMetrics().horizontalAdvance(shown.figures);
        p.setPen(shown.layer ? (chosen ? c.ink : c.inkSoft) : c.accent);
        p.drawText(text, Qt::AlignRight | Qt::AlignVCenter, shown.figures);
        p.setPen(shown.layer ? c.ink : c.inkSoft);
        p.setFont(theme::font(13, chosen ? QFont::Medium : QFont::Normal));
        p.drawText(text, Qt::AlignLeft | Qt::AlignVCenter, p.fontMetrics().elidedText(shown.name, Qt::ElideRight, int(text.width() - figures - 8)));
    }
    if (gap_ >= 0) {
        const double y = 1 + gap_ * layerRowHeight();
        p.setPen(QPen(c.accent, 2));
        p.drawLine(QPointF(4, y), QPointF(width() - 4, y));
    }
}

void LayerRows::mousePressEvent(QMouseEvent* event)
{
    if (event->button() != Qt::LeftButton)
        return;
    down_ = true;
    pressed_ = event->position();
    pressPart(int(event->position().y() - 1) / layerRowHeight());
}

int LayerRows::gapAt(double y) const
{
    const int layers = desk_.currentPiece() ? int(desk_.currentPiece()->layers.size()) : 0;
    return std::clamp(int(std::lround((y - 1) / layerRowHeight())), 0, layers);
}

void LayerRows::mouseMoveEvent(QMouseEvent* event)
{
    constexpr double far = 5; // px: less is a press
    if (!down_)
        return;
    const auto all = rows();
    const int from = int(pressed_.y() - 1) / layerRowHeight();
    if (!dragged_ && (event->position() - pressed_).manhattanLength() > far && from >= 0 && from < int(all.size()))
        dragged_ = all[std::size_t(from)].layer;
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
    const auto all = rows();
    for (std::size_t k = 0; k < all.size(); ++k)
        if (all[k].layer && all[k].layer == desk_.layerId()) {
            const int to = int(k) + by;
            if (to >= 0 && to < int(all.size()) && all[std::size_t(to)].layer)
                desk_.setLayer(all[std::size_t(to)].layer);
            return;
        }
}

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
    if (event->key() == Qt::Key_Delete)
        edits::dropLayer(desk_, desk_.layerId());
    else if (event->key() == Qt::Key_M)
        edits::mergeDown(desk_);
    else if (by != 0 && event->modifiers() & Qt::AltModifier)
        move(by);
    else if (by != 0)
        step(by);
    else
        QWidget::keyPressEvent(event);
}

} // namespace yokai
