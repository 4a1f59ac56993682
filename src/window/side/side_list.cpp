#include "side/side_list.h"

#include "bench/view.h"
#include "desk/findings.h"
#include "desk/line_edits.h"
#include "desk/machining.h"
#include "desk/piece_edits.h"
#include "theme/theme.h"

#include <QKeyEvent>
#include <QPainter>
#include <QRegularExpression>

namespace yokai {

namespace {

// A figure and its unit stay on one line. What is short is on one anyway; of such rows there are thousands.
QString unbroken(QString text)
{
    constexpr qsizetype narrowest = 28; // characters that fit on a line
    if (text.size() < narrowest)
        return text;
    static const QRegularExpression unit(QStringLiteral("(\\d) (?=(?:mm|in|m|g|s|min|h|ppi)\\b|%)"));
    return text.replace(unit, QStringLiteral("\\1\u00a0")).replace(QStringLiteral("/s"), QStringLiteral("/\u2060s")).replace(QStringLiteral("/min"), QStringLiteral("/\u2060min"));
}

} // namespace

SideModel::SideModel(Desk& desk, QObject* parent) : QAbstractListModel(parent), desk_(desk) {}

QVariant SideModel::data(const QModelIndex& index, int role) const
{
    const SideRow& row = rows_[std::size_t(index.row())];
    if (role == Qt::DisplayRole || role == Qt::AccessibleTextRole)
        return (row.detail.isEmpty() ? row.title : row.title + QStringLiteral(", ") + row.detail) +
               (row.presses.isEmpty()    ? QString()
                : row.presses.size() == 1 ? QStringLiteral("; ") + tr("Enter: %1").arg(row.presses[0])
                                          : QStringLiteral("; ") + tr("Enter: %1, Shift+Enter: %2").arg(row.presses[0], row.presses[1]));
    if (role == Qt::ToolTipRole && !row.tip.isEmpty())
        return row.tip;
    return {};
}

Qt::ItemFlags SideModel::flags(const QModelIndex& index) const
{
    const SideRow& row = rows_[std::size_t(index.row())];
    return row.kind == SideRow::Kind::Section ? Qt::NoItemFlags : Qt::ItemIsEnabled | Qt::ItemIsSelectable;
}

bool SideModel::refresh()
{
    std::vector<SideRow> rows = sideRows(desk_);
    if (rows == rows_)
        return false;
    beginResetModel();
    rows_ = std::move(rows);
    endResetModel();
    return true;
}

bool SideDelegate::hasPicture(const SideRow& row) const
{
    return row.of == SideRow::Of::Finding || row.kind == SideRow::Kind::Warning || row.kind == SideRow::Kind::Fault || !row.crop.empty() || row.of == SideRow::Of::Piece || row.of == SideRow::Of::Sheet;
}

QSize SideDelegate::sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const
{
    const SideRow& row = model_.row(index.row());
    if (row.kind == SideRow::Kind::Section)
        return {100, theme::px(index.row() == 0 ? 34 : 36)};
    if (row.kind == SideRow::Kind::Item && row.title.size() < 20 && row.detail.size() < 28 && hasPicture(row))
        return {100, theme::px(46)}; // two short lines; thousands of them are not measured one by one
    // Findings say a whole sentence; it wraps.
    const int press = pressBox(row, QRect(0, 0, 100, 40)).width();
    const int textWidth = (press > 0 ? -press - 6 : 0) + (option.widget ? qobject_cast<const QListView*>(option.widget)->viewport()->width() - (hasPicture(row) ? 66 : 32) : 140);
    const QRect title = QFontMetrics(theme::font(13)).boundingRect(QRect(0, 0, textWidth, 400), Qt::TextWordWrap, row.title);
    const int detail =
        row.detail.isEmpty() ? 0 : QFontMetrics(theme::font(11)).boundingRect(QRect(0, 0, textWidth, 400), Qt::TextWordWrap, unbroken(row.detail)).height();
    const int presses = int(row.presses.size()) * theme::px(30) + 6;
    return {100, std::max({theme::px(hasPicture(row) ? 44 : 30), presses, title.height() + detail + 14})};
}

// A sheet with its copies, small.
void paintSheet(QPainter& painter, const Shown& shown, int sheet, const QRectF& frame)
{
    const Layout& layout = shown.derived.sheet;
    const double scale = std::min(frame.width() / layout.width, frame.height() / layout.height);
    QRectF paper(0, 0, layout.width * scale, layout.height * scale);
    paper.moveCenter(frame.center());
    painter.fillRect(paper, Qt::white);
    painter.save();
    painter.setClipRect(paper);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    for (const Placement& p : layout.on(sheet)) {
        const Affine& m = p.toSheet;
        const PieceResult& piece = shown.derived.pieces[p.at];
        painter.save();
        painter.setTransform(q(m) * QTransform(scale, 0, 0, scale, paper.x(), paper.y()), true);
        painter.drawImage(QRectF(0, 0, piece.width, piece.height), shown.pictures[p.at].thumbnail);
        painter.restore();
    }
    painter.restore();
}

// A finding's sign, or what the row is about.
void SideDelegate::paintPicture(QPainter& painter, const SideRow& row, const QRectF& frame) const
{
    const auto& c = theme::colours();
    painter.setPen(Qt::NoPen);
    painter.setBrush(c.strip);
    painter.drawRoundedRect(frame, 3, 3);
    if (row.kind == SideRow::Kind::Note) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(c.inkSoft, 1.6));
        painter.drawEllipse(frame.center(), 6.5, 6.5);
    } else if (row.kind == SideRow::Kind::Warning || row.kind == SideRow::Kind::Fault) {
        const QPointF m = frame.center();
        painter.setBrush(row.kind == SideRow::Kind::Fault ? c.fault : c.warning);
        painter.drawPolygon(QPolygonF{m + QPointF(0, -8), m + QPointF(8.5, 7), m + QPointF(-8.5, 7)});
    } else if (!row.crop.empty() && desk_.currentPicture() && desk_.currentPicture()->working && desk_.currentResult()) {
        const ScreenPicture& picture = *desk_.currentPicture()->working;
        const PieceResult& r = *desk_.currentResult();
        const Rect crop = row.crop.grown(std::max(row.crop.width(), row.crop.height()) * 0.06 + 0.1);
        const double side = 26, scale = side / std::max(crop.width(), crop.height()), k = picture.size().width() / r.width;
        QRectF to(0, 0, crop.width() * scale, crop.height() * scale);
        to.moveCenter(frame.center());
        painter.setRenderHint(QPainter::SmoothPixmapTransform);
        painter.setOpacity(row.faded ? 0.6 : 1);
        picture.draw(painter, to, QRectF(crop.x0 * k, crop.y0 * k, crop.width() * k, crop.height() * k), scale / k * painter.device()->devicePixelRatioF());
        painter.setOpacity(1);
        if (row.ring) {
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(c.link, 1.2, Qt::DotLine));
            painter.drawRoundedRect(frame.adjusted(1, 1, -1, -1), 3, 3);
        }
    } else if (row.of == SideRow::Of::Sheet && desk_.shown() && row.id < desk_.shown()->derived.sheet.sheets) {
        paintSheet(painter, *desk_.shown(), row.id, frame);
    } else if (row.of == SideRow::Of::Piece && desk_.shown() && row.id < int(desk_.shown()->pictures.size())) {
        const QImage& t = desk_.shown()->pictures[std::size_t(row.id)].thumbnail;
        if (!t.isNull()) {
            QRectF to(QPointF(), QSizeF(t.size()).scaled(26, 26, Qt::KeepAspectRatio));
            to.moveCenter(frame.center());
            painter.setRenderHint(QPainter::SmoothPixmapTransform);
            painter.drawImage(to, t);
        }
    }
}

QRect SideDelegate::pressBox(const SideRow& row, const QRect& item, int press) const
{
    if (press >= row.presses.size())
        return {};
    // As wide as the widest, one above the other.
    int width = 0;
    for (const QString& text : row.presses)
        width = std::max(width, QFontMetrics(theme::font(12)).horizontalAdvance(text) + theme::px(20));
    const int height = theme::px(26), pitch = theme::px(30), all = height + pitch * int(row.presses.size() - 1);
    return {item.right() - theme::px(10) - width, item.top() + (item.height() - all) / 2 + press * pitch, width, height};
}

void SideDelegate::paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const
{
    const auto& c = theme::colours();
    const SideRow& row = model_.row(index.row());
    QRect box = option.rect.adjusted(8, 1, -8, -1);
    painter->save();
    painter->setRenderHint(QPainter::Antialiasing);
    if (row.kind == SideRow::Kind::Section) {
        painter->setPen(c.ink);
        painter->setFont(theme::font(13, QFont::DemiBold));
        painter->drawText(box.adjusted(4, 0, 0, -4), Qt::AlignLeft | Qt::AlignBottom, row.title);
        painter->restore();
        return;
    }
    if (option.state & QStyle::State_Selected) {
        painter->setPen(QPen(c.line, 1));
        painter->setBrush(c.panel);
        painter->drawRoundedRect(QRectF(box).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    }
    int left = box.left() + 8;
    if (hasPicture(row)) {
        paintPicture(*painter, row, QRectF(box.left() + 6, box.top() + (box.height() - 30) / 2.0, 30, 30));
        left = box.left() + 44;
    }
    const QRect button = pressBox(row, option.rect);
    for (int press = 0; press < row.presses.size(); ++press) {
        const QRect own = pressBox(row, option.rect, press);
        painter->setPen(QPen(c.line, 1));
        painter->setBrush(c.panel);
        painter->drawRoundedRect(QRectF(own).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
        painter->setPen(c.ink);
        painter->setFont(theme::font(12));
        painter->drawText(own, Qt::AlignCenter, row.presses[press]);
    }
    const QRect text(left, box.top() + 6, (button.isEmpty() ? box.right() - 4 : button.left() - 6) - left, box.height() - 12);
    painter->setFont(theme::font(13));
    painter->setPen(row.faded ? c.inkSoft : c.ink);
    QRect used;
    const bool both = !row.detail.isEmpty();
    painter->drawText(text, int(both ? Qt::AlignTop : Qt::AlignVCenter) | Qt::AlignLeft | Qt::TextWordWrap, row.title, &used);
    if (both) {
        painter->setFont(theme::font(11));
        painter->setPen(c.inkSoft);
        painter->drawText(QRect(text.left(), used.bottom() + 1, text.width(), text.bottom() - used.bottom() + 4),
                          Qt::AlignTop | Qt::AlignLeft | Qt::TextWordWrap, unbroken(row.detail));
    }
    painter->restore();
}

SideList::SideList(Desk& desk, QWidget* parent) : QListView(parent), desk_(desk), model_(new SideModel(desk, this))
{
    setObjectName("side-list");
    setFixedWidth(theme::px(216));
    setFrameShape(QFrame::NoFrame);
    setModel(model_);
    setItemDelegate(new SideDelegate(desk, *model_, this));
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    // Thousands of parts are laid out a few hundred at a time.
    constexpr int atOnce = 400;
    setLayoutMode(QListView::Batched);
    setBatchSize(atOnce);
    setAccessibleName(tr("Side list"));
    const auto refresh = [this] {
        selecting_ = true;
        model_->refresh();
        selecting_ = false;
        select();
        viewport()->update();
    };
    for (const auto signal : {&Desk::shownChanged, &Desk::viewChanged, &Desk::testCutChanged})
        connect(&desk, signal, this, refresh);
    connect(&desk.machining(), &Machining::changed, this, refresh);
    setSelectionMode(QAbstractItemView::ExtendedSelection);
    connect(selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
        if (!selecting_)
            chosen();
    });
    connect(this, &QListView::activated, this, [this](const QModelIndex& index) {
        const SideRow& row = model_->row(index.row());
        if (row.of != SideRow::Of::Edit && press(index))
            return;
        if (row.of == SideRow::Of::Edit)
            edits::toggleEdit(desk_, EditId{std::uint32_t(row.id)});
        else if (desk_.station() == Station::Keep)
            edits::toggleParts(desk_, desk_.selectedParts());
    });
    setToolTip(tr("Double-click or Enter keeps or drops parts, and switches edits off and on; Delete takes work by hand back"));
    refresh();
}

void SideList::chosen()
{
    PartsSelected parts;
    Selection other;
    for (const QModelIndex& index : selectionModel()->selectedIndexes()) {
        const SideRow& row = model_->row(index.row());
        switch (row.of) {
        case SideRow::Of::Part:
            parts.parts.push_back(row.id);
            break;
        case SideRow::Of::Touch:
            if (const Layer* layer = desk_.currentLayer(); layer && row.id < int(layer->keep.touches.size()))
                other = EditSelected{layer->keep.touches[std::size_t(row.id)].id};
            break;
        case SideRow::Of::Mark:
            other = MarkSelected{row.id};
            break;
        case SideRow::Of::Operation:
            other = OperationSelected{row.id};
            break;
        case SideRow::Of::Edit:
            other = EditSelected{EditId{std::uint32_t(row.id)}};
            break;
        case SideRow::Of::Finding:
            if (desk_.shown() && row.id < int(desk_.shown()->derived.findings.size()))
                other = FindingSelected(desk_.shown()->derived.findings[std::size_t(row.id)]);
            break;
        case SideRow::Of::Piece:
            desk_.setPiece(row.id);
            return;
        case SideRow::Of::Sheet:
            desk_.setSheet(row.id);
            return;
        case SideRow::Of::Separation:
            other = separationOf(row.id);
            break;
        case SideRow::Of::Kind:
        case SideRow::Of::Nothing:
            break;
        }
    }
    desk_.select(parts.parts.empty() ? other : Selection(std::move(parts)));
}

void SideList::select()
{
    std::vector<int> parts = desk_.selectedParts();
    std::sort(parts.begin(), parts.end());
    const Touch* touch = desk_.selectedTouch();
    const auto* mark = std::get_if<MarkSelected>(&desk_.selection());
    const auto* edit = std::get_if<EditSelected>(&desk_.selection());
    const auto* finding = std::get_if<FindingSelected>(&desk_.selection());
    const auto* separation = std::get_if<SeparationSelected>(&desk_.selection());
    const auto chosen = [&](const SideRow& row) {
        switch (row.of) {
        case SideRow::Of::Part:
            return std::binary_search(parts.begin(), parts.end(), row.id);
        case SideRow::Of::Touch:
            return touch && row.id < int(desk_.currentLayer()->keep.touches.size()) && &desk_.currentLayer()->keep.touches[std::size_t(row.id)] == touch;
        case SideRow::Of::Mark:
            return mark && mark->mark == row.id;
        case SideRow::Of::Operation:
            return std::get_if<OperationSelected>(&desk_.selection()) && std::get<OperationSelected>(desk_.selection()).step == row.id;
        case SideRow::Of::Edit:
            return edit && edit->edit.n == std::uint32_t(row.id);
        case SideRow::Of::Finding:
            return finding && desk_.shown() && row.id < int(desk_.shown()->derived.findings.size()) &&
                   finding->is(desk_.shown()->derived.findings[std::size_t(row.id)]);
        case SideRow::Of::Piece:
            return row.id == desk_.piece();
        case SideRow::Of::Sheet:
            return row.id == desk_.sheet();
        case SideRow::Of::Separation:
            return separation && *separation == separationOf(row.id);
        case SideRow::Of::Kind:
        case SideRow::Of::Nothing:
            break;
        }
        return false;
    };
    QItemSelection selection;
    QModelIndex first;
    for (int i = 0; i < model_->rowCount(); ++i) {
        const SideRow& row = model_->row(i);
        if (!chosen(row))
            continue;
        const QModelIndex index = model_->index(i);
        if (!selection.isEmpty() && selection.back().bottom() == i - 1)
            selection.back() = QItemSelectionRange(selection.back().topLeft(), index);
        else
            selection.append(QItemSelectionRange(index));
        if (!first.isValid())
            first = index;
    }
    if (selection == selectionModel()->selection())
        return;
    selecting_ = true;
    selectionModel()->select(selection, QItemSelectionModel::ClearAndSelect);
    if (first.isValid()) {
        selectionModel()->setCurrentIndex(first, QItemSelectionModel::NoUpdate);
        scrollTo(first);
    }
    selecting_ = false;
}

void SideList::keyPressEvent(QKeyEvent* event)
{
    if ((event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) && desk_.selectedTouch())
        edits::removeTouch(desk_);
    else if ((event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) && edits::selectedEdit(desk_))
        edits::removeEdit(desk_);
    else if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && (event->modifiers() & Qt::ShiftModifier) && currentIndex().isValid())
        press(currentIndex(), 1);
    else
        QListView::keyPressEvent(event);
}

bool SideList::press(const QModelIndex& index, int press)
{
    const SideRow& row = model_->row(index.row());
    if (press >= row.presses.size())
        return false;
    if (row.of == SideRow::Of::Edit) {
        desk_.select(EditSelected{EditId{std::uint32_t(row.id)}});
        if (desk_.hand().hold != Hold::PlaceEdit)
            desk_.hold(Hold::PlaceEdit);
        return true;
    }
    mendFinding(desk_, std::size_t(row.id), std::size_t(press), row.of == SideRow::Of::Kind);
    return true;
}

void SideList::mousePressEvent(QMouseEvent* event)
{
    const QModelIndex index = indexAt(event->position().toPoint());
    const auto* delegate = static_cast<const SideDelegate*>(itemDelegate());
    for (int k = 0; index.isValid() && event->button() == Qt::LeftButton && k < model_->row(index.row()).presses.size(); ++k)
        if (delegate->pressBox(model_->row(index.row()), visualRect(index), k).contains(event->position().toPoint()) && press(index, k))
            return;
    QListView::mousePressEvent(event);
}

void SideList::resizeEvent(QResizeEvent* event)
{
    QListView::resizeEvent(event);
    scheduleDelayedItemsLayout();
}

void SideList::paintEvent(QPaintEvent* event)
{
    QPainter p(viewport());
    const auto& c = theme::colours();
    p.fillRect(viewport()->rect(), c.paper);
    p.setPen(QPen(c.line, 1));
    p.drawLine(QPointF(0.5, 0), QPointF(0.5, height()));
    if (model_->rowCount() == 0) {
        p.setPen(c.inkSoft);
        p.setFont(theme::font(12));
        p.drawText(viewport()->rect().adjusted(16, 16, -16, 0), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
                   tr("What this step is made of is listed here."));
    }
    p.end();
    QListView::paintEvent(event);
}

} // namespace yokai
