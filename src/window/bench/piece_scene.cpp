#include "bench/paint.h"
#include "bench/scene.h"
#include "job/colour_layers.h"
#include "theme/theme.h"
#include "path/cut.h"
#include "words.h"

#include <QPainter>
#include <QPainterPath>

#include <set>

namespace yokai {

namespace {

void paintParts(QPainter& painter, const BenchState& state, const View& view)
{
    const LayerResult* r = &state.layer();
    if (!r->parts || state.station != Station::Keep)
        return;
    // Dropped crumbs are ringed at any zoom, so that none has to be hunted for.
    const auto& c = theme::colours();
    int drawn = 0;
    std::vector<unsigned char> chosen(r->parts->all.size(), 0);
    for (const int i : state.selectedParts)
        if (i >= 0 && i < int(chosen.size()))
            chosen[std::size_t(i)] = 1;
    for (std::size_t i = 0; i < r->parts->all.size() && drawn < 6000; ++i) {
        const Part& part = r->parts->all[i];
        const bool selected = chosen[i];
        if (part.kept && !selected)
            continue;
        ++drawn;
        QRectF box = view.toScreen(q(part.box)).adjusted(-3, -3, 3, 3);
        if (box.width() < 12)
            box.adjust((box.width() - 12) / 2, 0, (12 - box.width()) / 2, 0);
        if (box.height() < 12)
            box.adjust(0, (box.height() - 12) / 2, 0, (12 - box.height()) / 2);
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(QColor(255, 255, 255, 200), selected ? 4.4 : 3));
        painter.drawRoundedRect(box, 5, 5);
        painter.setPen(QPen(selected ? c.accent : c.warning, selected ? 2 : 1.4));
        painter.drawRoundedRect(box, 5, 5);
    }
}

void paintNodes(QPainter& painter, const BenchState& state, const View& view)
{
    const auto& c = theme::colours();
    std::set<std::pair<double, double>> chosen;
    for (const Point p : state.nodes)
        chosen.emplace(p.x, p.y);
    for (const Point handle : state.handles) {
        const QPointF node = view.toScreen(q(state.nodes.front())), at = view.toScreen(q(handle));
        for (const QPen& pen : {QPen(QColor(255, 255, 255, 200), 3.4), QPen(c.accent, 1.4)}) {
            painter.setPen(pen);
            painter.drawLine(node, at);
        }
        painter.setBrush(Qt::white);
        painter.drawEllipse(at, 3.4, 3.4);
    }
    for (const CutLine& line : state.layer().lines) {
        const auto node = [&](Point mm, bool corner) {
            const QPointF at = view.toScreen(q(mm));
            painter.setPen(QPen(theme::lineColour(line.kind), 1.4));
            painter.setBrush(chosen.contains({mm.x, mm.y}) ? c.accent : QColor(Qt::white)); // as the halo, in either theme
            if (corner)
                painter.drawPolygon(QPolygonF{at + QPointF(0, -4.6), at + QPointF(4.6, 0), at + QPointF(0, 4.6), at + QPointF(-4.6, 0)});
            else
                painter.drawEllipse(at, 3.2, 3.2);
        };
        for (const Path& path : *line.paths) {
            if (!path.closed)
                node(path.start, true);
            for (std::size_t i = 0; i < path.segments.size(); ++i)
                node(path.segments[i].end, path.corners[i]);
        }
    }
}

// The ends of what stays uncut, as two strokes across the line.
void paintBridges(QPainter& painter, const BenchState& state, const View& view)
{
    for (const CutLine& line : state.layer().lines)
        for (const Path& path : *line.paths)
            for (const double way : breaksOf(line, path).middles)
                for (const double side : {-0.5, 0.5}) {
                    const PathPlace end = along(path, {0, 0, path.start}, way + side * line.bridgeWidth);
                    const Point t = unit(tangentOn(startOf(path, end.segment), path.segments[end.segment], end.t));
                    constexpr double arm = 6; // px
                    const QPointF at = view.toScreen(q(end.at)), across = QPointF(-t.y, t.x) * arm;
                    for (const QPen& pen : {QPen(QColor(255, 255, 255, 220), 4, Qt::SolidLine, Qt::RoundCap), QPen(theme::lineColour(line.kind), 2, Qt::SolidLine, Qt::RoundCap)}) {
                        painter.setPen(pen);
                        painter.drawLine(at - across, at + across);
                    }
                }
}

void paintGuides(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip)
{
    const auto& c = theme::colours();
    for (const auto& [guide, chosen] : state.guides) {
        const QPointF a = view.toScreen(q(guide.a));
        const Point along = unit(guide.b - guide.a);
        const double far = std::hypot(a.x() - clip.center().x(), a.y() - clip.center().y()) + clip.width() + clip.height();
        painter.setPen(QPen(chosen ? c.accent : c.link, chosen ? 1.8 : 1, Qt::DashDotLine));
        painter.drawLine(a - q(along) * far, a + q(along) * far);
    }
}

void paintDimension(QPainter& painter, const BenchState& state, const View& view)
{
    const CutLine* line = nullptr;
    for (const CutLine& l : state.layer().lines)
        if (l.id == state.line)
            line = &l;
    if (!line || line->paths->empty() || std::abs(line->offset.mm()) < 1e-9)
        return;
    // Where the line lies farthest to the right and slightly down, clear of most pictures' heads.
    double best = -1e18;
    Point at, normal;
    for (const Path& path : *line->paths)
        path.each([&](Point from, const Segment& s) {
            for (int k = 0; k < 8; ++k) {
                const Point p = pointOn(from, s, k / 8.0);
                if (const double score = p.x + 0.35 * p.y; score > best) {
                    best = score;
                    at = p;
                    const Point t = unit(tangentOn(from, s, k / 8.0));
                    normal = {t.y, -t.x};
                }
            }
        });
    const Point foot = at - normal * line->offset.mm();
    paint::dimension(painter, view.toScreen(q(foot)), view.toScreen(q(at)), exactText(line->offset.mm(), state.unit));
}

// Of edits that found no place the shape they would have, dotted; round the selected one a mark.
void paintEdits(QPainter& painter, const BenchState& state, const View& view)
{
    const auto& c = theme::colours();
    for (const CutLine& line : state.layer().lines)
        for (const EditOutcome& edit : line.edits) {
            QPolygonF ghost;
            for (const Point p : edit.ghost)
                ghost << view.toScreen(q(p));
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(QColor(255, 255, 255, 200), 4));
            painter.drawPolyline(ghost);
            painter.setPen(QPen(theme::lineColour(line.kind), 2, Qt::DotLine, Qt::RoundCap));
            painter.drawPolyline(ghost);
            if (edit.id != state.edit)
                continue;
            constexpr double arm = 11; // px
            const QRectF box(view.toScreen(q(edit.at)) - QPointF(arm, arm), QSizeF(2 * arm, 2 * arm));
            painter.setPen(QPen(QColor(255, 255, 255, 200), 4.4));
            painter.drawRoundedRect(box, 5, 5);
            painter.setPen(QPen(c.accent, 2));
            painter.drawRoundedRect(box, 5, 5);
        }
}

// A ring round each, at any zoom as wide, so that none has to be hunted for and the line is seen through it.
void paintFindings(QPainter& painter, const BenchState& state, const View& view)
{
    const auto& c = theme::colours();
    constexpr double small = 9, large = 15; // px
    const auto ring = [&](std::size_t k) {
        const Finding& f = state.shown->derived.findings[k];
        if (!f.line)
            return; // about the whole of it
        const bool chosen = state.finding == k;
        const QPointF at = view.toScreen(q(f.at));
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(QColor(255, 255, 255, 200), chosen ? 5 : 3.4));
        painter.drawEllipse(at, chosen ? large : small, chosen ? large : small);
        painter.setPen(QPen(f.severity == Severity::Error ? c.fault : f.severity == Severity::Note ? c.inkSoft : c.warning, chosen ? 2.6 : 1.6));
        painter.drawEllipse(at, chosen ? large : small, chosen ? large : small);
    };
    for (const std::size_t k : state.findings)
        if (state.finding != k)
            ring(k);
    if (state.finding)
        ring(*state.finding);
}

void paintInside(QPainter& painter, const BenchState& state, const View& view)
{
    for (const auto& outline : state.inside) {
        QPolygonF shape;
        for (const Point p : outline)
            shape << view.toScreen(q(p));
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(QColor(255, 255, 255, 200), 3));
        painter.drawPolygon(shape);
        painter.setPen(QPen(theme::colours().link, 1.4, Qt::DashLine));
        painter.drawPolygon(shape);
    }
}

void paintTouch(QPainter& painter, const Touch& touch, const View& view)
{
    const auto& c = theme::colours();
    QPainterPath way(view.toScreen(q(touch.points.front())));
    for (const Point p : touch.points)
        way.lineTo(view.toScreen(q(p)) + QPointF(0.01, 0));
    QColor colour = touch.kind == Touch::Kind::BringBack ? c.fine : c.accent;
    colour.setAlpha(120);
    const double across = touch.kind == Touch::Kind::RubOutLike ? 12 : std::max(4.0, 2 * touch.radius * view.scale);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(colour, across, Qt::SolidLine, touch.square ? Qt::SquareCap : Qt::RoundCap, touch.square ? Qt::MiterJoin : Qt::RoundJoin));
    painter.drawPath(way);
}

void paintBleed(QPainter& painter, const PiecePicture& picture, const View& view)
{
    if (picture.bleed)
        paint::picture(painter, *picture.bleed, picture.bleedAt.size(), QTransform::fromTranslate(picture.bleedAt.x(), picture.bleedAt.y()) * view.transform());
}

// The place at which the cut may drift least.
void paintWeakest(QPainter& painter, const BenchState& state, const View& view)
{
    const LayerResult& layer = state.layer();
    if (!std::isfinite(layer.drift.least()))
        return;
    const QPointF at = view.toScreen(q(layer.drift.at()));
    const double radius = std::max(8.0, layer.drift.least() * view.scale);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(255, 255, 255, 200), 4));
    painter.drawEllipse(at, radius, radius);
    painter.setPen(QPen(theme::colours().warning, 1.8, Qt::DashLine));
    painter.drawEllipse(at, radius, radius);
    paint::tag(painter, at - QPointF(0, radius + 18), exactText(layer.drift.least(), state.unit));
}

void paintWork(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip)
{
    const Station station = state.station;
    if (station == Station::Keep || station == Station::Artwork)
        paintParts(painter, state, view);
    const bool faint = station == Station::Artwork || station == Station::Keep;
    const auto& lines = state.layer().lines;
    for (std::size_t i = 0; i < lines.size() && state.hold != Hold::Frame; ++i) {
        painter.setOpacity(faint ? 0.55 : 1);
        const bool chosen = station == Station::CutLines && lines[i].id == state.line && lines.size() > 1;
        paint::line(painter, *lines[i].paths, lines[i].kind, view.transform(), chosen ? 3 : 2);
        painter.setOpacity(1);
    }
    if (station == Station::Keep) {
        paintInside(painter, state, view);
        for (const Touch& stroke : state.marked)
            paintTouch(painter, stroke, view);
        if (state.selectedTouch)
            paintTouch(painter, *state.selectedTouch, view);
    }
    if (station == Station::TouchUp) {
        paintGuides(painter, state, view, clip);
        paintBridges(painter, state, view);
        paintNodes(painter, state, view);
        paintEdits(painter, state, view);
    }
    if (station == Station::CutLines)
        paintDimension(painter, state, view);
    if (station == Station::Bleed)
        paintWeakest(painter, state, view);
    paintFindings(painter, state, view);
}

} // namespace

// Colour layers are seen as they will lie; in the picture itself they are picked and brushed.
static bool showsStack(const BenchState& state)
{
    return state.station != Station::Artwork && isLayered(*state.spec()) && (state.station != Station::Keep || state.hold == Hold::Nothing);
}

QRectF PieceScene::extent(const BenchState& state) const
{
    const PieceResult* r = state.result();
    if (!r)
        return {};
    Rect box{0, 0, r->width, r->height};
    box.add(r->box);
    return q(box);
}

void PieceScene::paint(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip) const
{
    const PieceResult* r = state.result();
    const PiecePicture* picture = state.picture();
    if (!r || !picture)
        return;
    const auto& c = theme::colours();
    const QRectF ground = view.toScreen(q(Rect(0, 0, r->width, r->height)));
    painter.fillRect(ground, c.card);
    // A fine hatch of constant width on the screen lies under what is not kept.
    painter.save();
    const QRectF seen = ground & clip;
    painter.setClipRect(seen);
    painter.setPen(QPen(c.hatch, 1));
    constexpr double pitch = 12;
    const double from = std::floor((seen.left() + seen.top() - ground.left() - ground.top()) / pitch) * pitch;
    for (double k = from; k < seen.right() + seen.bottom() - ground.left() - ground.top(); k += pitch) {
        const double s = k + ground.left() + ground.top();
        painter.drawLine(QPointF(s - seen.top(), seen.top()), QPointF(s - seen.bottom(), seen.bottom()));
    }
    painter.restore();

    if (state.peek == Peek::Bare && r->pixels) {
        // The pixels as they are; made small here, for this is not looked at for long.
        const QImage bare(reinterpret_cast<const uchar*>(r->pixels->all().data()), r->pixels->width(), r->pixels->height(), r->pixels->width() * 4,
                          QImage::Format_RGBA8888);
        const QSize size = (ground.size() * painter.device()->devicePixelRatioF()).toSize();
        painter.setRenderHint(QPainter::SmoothPixmapTransform);
        painter.drawImage(ground, size.width() < bare.width() ? bare.scaled(size, Qt::IgnoreAspectRatio, Qt::SmoothTransformation) : bare);
    } else if (state.peek == Peek::KeptAlone && picture->printed) {
        painter.fillRect(ground, c.contrast); // so that white shows too
        paintBleed(painter, *picture, view);
        paint::picture(painter, *picture->printed, {r->width, r->height}, view.transform());
    } else {
        // At Bleed what is printed, as it is printed; the bleed is not in the way of the stations before.
        const bool asPrinted = state.station == Station::Bleed && picture->printed;
        if (showsStack(state)) {
            painter.fillRect(ground, c.card);
            paint::stack(painter, *state.spec(), *r, view.transform(), state.lifted && state.station == Station::Keep ? state.layerId : LayerId{});
        } else if (state.station == Station::Bleed && state.layer().engraving)
            paint::engraved(painter, state.layer(), *picture, state.shown->job.cut.plan, view.transform());
        else if (asPrinted)
            paintBleed(painter, *picture, view);
        if (const auto& shown = showsStack(state) || (state.station == Station::Bleed && state.layer().engraving) ? nullptr : asPrinted ? picture->printed : picture->working)
            paint::picture(painter, *shown, {r->width, r->height}, view.transform());
        paintWork(painter, state, view, clip);
    }

    if (state.hold == Hold::Frame)
        return; // its own size is what counts
    // The picture's width, below it.
    painter.setPen(QPen(c.inkSoft, 1));
    const double y = std::round(ground.bottom() + 16) + 0.5;
    painter.drawLine(QPointF(ground.left(), y), QPointF(ground.right(), y));
    for (const double x : {ground.left(), ground.right()})
        painter.drawLine(QPointF(std::round(x) + 0.5, y - 4), QPointF(std::round(x) + 0.5, y + 4));
    painter.setFont(theme::font(12));
    painter.drawText(QRectF(ground.left(), y + 3, ground.width(), theme::px(18)), Qt::AlignHCenter | Qt::AlignTop | Qt::TextDontClip,
                     exactText(r->width, state.unit));
}

} // namespace yokai
