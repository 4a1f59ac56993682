// What a maker keeps under names: a list of them, presses to use and to drop the chosen one, and a field to keep what there is now
// under a name.
#pragma once

#include "theme/controls.h"
#include "theme/number_field.h"

#include <QWidget>

#include <functional>

class QPushButton;

namespace yokai {

class Shelf : public QWidget {
    Q_OBJECT
public:
    struct Of {
        QString id;   // of its controls' object names
        QString what; // "Kept sizes"
        std::function<QStringList()> names;
        std::function<void(const QString&)> use, keep, drop;
    };
    Shelf(Of of, QWidget* parent);
    void refresh();
    QString chosen() const; // empty: none is kept

signals:
    void changed(); // another is chosen

private:
    Of of_;
    ChoiceBox* list_;
    QPushButton *use_, *drop_;
    TextField* name_;
};

} // namespace yokai
