// The lines of a piece's layer: a row each, with its kind and how far it lies off.
#pragma once

#include "desk/desk.h"
#include "trail/drawn_list.h"

namespace yokai {

class LineRows : public DrawnList {
    Q_OBJECT
public:
    explicit LineRows(Desk& desk, QWidget* parent);
    void pressPart(int index) override { desk_.setLine(index); }

protected:
    std::vector<ListRow> rows() const override;
    QString wordsIfEmpty() const override { return tr("No line yet; add one"); }
    void step(int by) override { desk_.setLine(desk_.line() + by); }
    void remove() override;

private:
    Desk& desk_;
};

} // namespace yokai
