#include "trail/shelf.h"

#include <QGridLayout>
#include <QPushButton>

namespace yokai {

Shelf::Shelf(Of of, QWidget* parent) : QWidget(parent), of_(std::move(of))
{
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setColumnStretch(0, 1);
    const auto named = [this](QWidget* control, const char* part, const QString& text) {
        control->setObjectName(of_.id + QLatin1String(part));
        control->setAccessibleName(text);
    };
    list_ = new ChoiceBox(this);
    named(list_, "-list", of_.what);
    list_->setToolTip(of_.what);
    list_->setPlaceholderText(of_.what);
    use_ = new QPushButton(tr("Use"), this);
    named(use_, "-use", tr("Use"));
    drop_ = new QPushButton(tr("Drop"), this);
    named(drop_, "-drop", tr("Drop"));
    name_ = new TextField(this);
    named(name_, "-name", tr("Name"));
    name_->setPlaceholderText(tr("Name"));
    auto* keep = new QPushButton(tr("Keep"), this);
    named(keep, "-keep", tr("Keep"));
    keep->setToolTip(tr("What there is now, under this name"));
    grid->addWidget(list_, 0, 0);
    grid->addWidget(use_, 0, 1);
    grid->addWidget(drop_, 0, 2);
    grid->addWidget(name_, 1, 0);
    grid->addWidget(keep, 1, 1, 1, 2);
    connect(use_, &QPushButton::clicked, this, [this] { of_.use(list_->currentText()); });
    connect(drop_, &QPushButton::clicked, this, [this] {
        of_.drop(list_->currentText());
        refresh();
    });
    connect(keep, &QPushButton::clicked, this, [this] {
        const QString name = name_->text().trimmed();
        if (name.isEmpty())
            return name_->setFocus();
        of_.keep(name);
        name_->clear();
        refresh();
        list_->setCurrentText(name);
    });
    connect(list_, &ChoiceBox::currentTextChanged, this, &Shelf::changed);
    refresh();
}

QString Shelf::chosen() const { return list_->currentText(); }

void Shelf::refresh()
{
    const QString now = list_->currentText();
    const QStringList names = of_.names();
    list_->clear();
    list_->addItems(names);
    list_->setCurrentText(names.contains(now) ? now : names.value(0));
    list_->setEnabled(!names.isEmpty());
    use_->setEnabled(!names.isEmpty());
    drop_->setEnabled(!names.isEmpty());
}

} // namespace yokai
