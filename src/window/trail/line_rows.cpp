#include "trail/line_rows.h"

#include "desk/piece_edits.h"
#include "theme/theme.h"
#include "words.h"

namespace yokai {

namespace {

void paintLineSign(QPainter& p, const QRectF& at, LineKind kind)
{
    const double y = at.center().y();
    p.setPen(QPen(QColor(255, 255, 255, theme::isDark() ? 210 : 0), 5));
    p.drawLine(QPointF(at.left(), y), QPointF(at.right(), y));
    p.setPen(theme::linePen(kind, 2.4));
    p.drawLine(QPointF(at.left(), y), QPointF(at.right(), y));
}

} // namespace

LineRows::LineRows(Desk& desk, QWidget* parent) : DrawnList("line-rows", tr("Cut lines"), 28, parent), desk_(desk) { setToolTip(tr("The lines of this piece; press one to set it")); }

std::vector<ListRow> LineRows::rows() const
{
    std::vector<ListRow> out;
    const Layer* layer = desk_.currentLayer();
    for (int i = 0; layer && i < int(layer->lines.size()); ++i) {
        const LineSpec& line = layer->lines[std::size_t(i)];
        out.push_back({title(line.kind), line.shape == LineShape::Drawn ? tr("as drawn") : line.percent ? number(*line.percent, 1) + QStringLiteral(" %") : exactText(line.offset.mm(), desk_.unit()),
                       i == desk_.line(), false, [kind = line.kind](QPainter& p, const QRectF& at) { paintLineSign(p, at, kind); }});
    }
    return out;
}

void LineRows::remove() { edits::removeLine(desk_); }

} // namespace yokai
