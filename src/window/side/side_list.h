// The side list: what the current station is made of. Selecting here shows it on
// the bench, and the other way round. Rows are drawn only when seen, so that
// thousands cost nothing.
#pragma once

#include "side/side_rows.h"

#include <QAbstractListModel>
#include <QListView>
#include <QStyledItemDelegate>

namespace yokai {

class SideModel : public QAbstractListModel {
    Q_OBJECT
public:
    explicit SideModel(Desk& desk, QObject* parent);
    int rowCount(const QModelIndex& parent = {}) const override { return parent.isValid() ? 0 : int(rows_.size()); }
    QVariant data(const QModelIndex& index, int role) const override;
    Qt::ItemFlags flags(const QModelIndex& index) const override;
    const SideRow& row(int i) const { return rows_[std::size_t(i)]; }
    bool refresh(); // whether anything is different now

private:
    Desk& desk_;
    std::vector<SideRow> rows_;
};

class SideDelegate : public QStyledItemDelegate {
    Q_OBJECT
public:
    SideDelegate(Desk& desk, SideModel& model, QObject* parent) : QStyledItemDelegate(parent), desk_(desk), model_(model) {}
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override;
    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override;
    QRect pressBox(const SideRow& row, const QRect& item, int press = 0) const; // of one of a row's buttons; empty where it has none

private:
    bool hasPicture(const SideRow& row) const;
    void paintPicture(QPainter& painter, const SideRow& row, const QRectF& frame) const;
    Desk& desk_;
    SideModel& model_;
};

class SideList : public QListView {
    Q_OBJECT
public:
    explicit SideList(Desk& desk, QWidget* parent = nullptr);
    const SideRow& rowAt(const QModelIndex& index) const { return model_->row(index.row()); }

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

private:
    void select();
    void chosen();
    bool press(const QModelIndex& index, int press = 0); // what one of the row's buttons does; false where it has none
    Desk& desk_;
    SideModel* model_;
    bool selecting_ = false;
};

} // namespace yokai
