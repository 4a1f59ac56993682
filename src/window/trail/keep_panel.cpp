#include "trail/panels.h"

#include <QComboBox>

namespace yokai {

namespace {
constexpr KeepRule offered[] = {KeepRule::Auto, KeepRule::Alpha, KeepRule::Paper, KeepRule::Dark, KeepRule::Light, KeepRule::All};
}

KeepPanel::KeepPanel(Studio& studio, QWidget* parent) : Panel(studio, parent)
{
    rule_ = new QComboBox(this);
    rule_->setObjectName("keep-rule");
    for (const QString& text : {tr("Chosen by itself"), tr("Transparency"), tr("Unlike the paper"), tr("Darker"), tr("Lighter"), tr("Whole picture")})
        rule_->addItem(text);
    addRow(tr("Keep by"), rule_, tr("What tells picture from paper"));
    level_ = addNumber(tr("Level"), NumberField::Meaning::Number, 0, 100, 1,
                       tr("Where picture begins: opacity in percent, difference from the paper, or lightness"));
    level_.field->setDecimals(0);
    level_.field->setObjectName("keep-level");
    smallest_ = addNumber(tr("Crumbs"), NumberField::Meaning::Number, 0, 20, 0.1, tr("Parts smaller than this are dropped"));
    smallest_.field->setRange(0, 1e6);
    smallest_.field->setDecimals(1);
    smallest_.field->setSuffix(QStringLiteral(" mm\u00b2"));
    smallest_.field->setObjectName("keep-smallest");
    openings_ = new Segmented({tr("Keep"), tr("Over"), tr("Fill")}, this);
    openings_->setObjectName("keep-openings");
    addRow(tr("Openings"), openings_, tr("Keep all openings, only those over an area, or none"));
    over_ = addField(tr("Openings over"), NumberField::Meaning::Number, tr("Smaller openings are filled"));
    over_->setRange(0, 1e6);
    over_->setStep(0.5);
    over_->setDecimals(1);
    over_->setSuffix(QStringLiteral(" mm\u00b2"));
    note_ = addNote();
    connect(rule_, &QComboBox::activated, this, [this](int index) {
        studio_.editPiece(tr("change what is kept"), [&](Piece& p) {
            p.keep.rule = offered[index];
            p.keep.level.reset(); // a level means something else under another rule
        });
    });
    bind(level_.field, tr("change the keep level"), [](Piece& p, NumberField* f) { p.keep.level = f->number(); });
    bind(smallest_.field, tr("change the crumb limit"), [](Piece& p, NumberField* f) { p.keep.smallestPart = f->number(); });
    bind(over_, tr("change the opening limit"), [](Piece& p, NumberField* f) { p.keep.openingsOver = f->number(); });
    connect(openings_, &Segmented::chosen, this, [this](int index) {
        studio_.editPiece(tr("change the openings"), [&](Piece& p) {
            p.keep.openings = index == 0 ? Openings::Keep : index == 1 ? Openings::Over : Openings::Fill;
        });
    });
}

void KeepPanel::refresh()
{
    const Piece* piece = studio_.currentPiece();
    setEnabled(piece != nullptr);
    if (!piece)
        return;
    const KeepSpec& k = piece->keep;
    for (int i = 0; i < int(std::size(offered)); ++i)
        if (offered[i] == k.rule)
            rule_->setCurrentIndex(i);
    const PieceResult* r = studio_.currentResult();
    const double level = k.level.value_or(r && r->coverage ? r->coverage->level : 50);
    level_.slider->setReal(level);
    level_.field->setNumber(level);
    const bool hasLevel = k.rule != KeepRule::All;
    level_.slider->setEnabled(hasLevel);
    level_.field->setEnabled(hasLevel);
    smallest_.slider->setReal(k.smallestPart);
    smallest_.field->setNumber(k.smallestPart);
    openings_->setCurrent(k.openings == Openings::Keep ? 0 : k.openings == Openings::Over ? 1 : 2);
    over_->setNumber(k.openingsOver);
    over_->setEnabled(k.openings == Openings::Over);
    if (r && r->coverage && k.rule == KeepRule::Auto) {
        const QString rule = r->coverage->rule == KeepRule::Alpha   ? tr("By transparency")
                             : r->coverage->rule == KeepRule::Paper ? tr("Unlike the paper")
                                                                    : tr("The whole picture");
        note_->setText(tr("%1: %2.").arg(rule, QString::fromStdString(r->coverage->why)));
    } else {
        note_->setText(k.rule == KeepRule::Paper ? tr("Paper is what joins the picture's edge.") : QString());
    }
    note_->setVisible(!note_->text().isEmpty());
}

} // namespace yokai
