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
    explicit SideModel(Studio& studio, QObject* parent);
    int rowCount(const QModelIndex& parent = {}) const override { return parent.isValid() ? 0 : int(rows_.size()); }
    QVariant data(const QModelIndex& index, int role) const override;
    Qt::ItemFlags flags(const QModelIndex& index) const override;
    const SideRow& row(int i) const { return rows_[std::size_t(i)]; }
    bool refresh(); // whether anything is different now

private:
    Studio& studio_;
    std::vector<SideRow> rows_;
};

class SideDelegate : public QStyledItemDelegate {
    Q_OBJECT
public:
    SideDelegate(Studio& studio, SideModel& model, QObject* parent) : QStyledItemDelegate(parent), studio_(studio), model_(model) {}
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override;
    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override;

private:
    bool hasPicture(const SideRow& row) const;
    Studio& studio_;
    SideModel& model_;
};

class SideList : public QListView {
    Q_OBJECT
public:
    explicit SideList(Studio& studio, QWidget* parent = nullptr);

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    void select();
    void chosen();
    Studio& studio_;
    SideModel* model_;
    bool selecting_ = false;
};

} // namespace yokai
