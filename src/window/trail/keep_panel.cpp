#include "trail/panels.h"

#include <QComboBox>

namespace yokai {

namespace {
constexpr KeepRule offered[] = {KeepRule::Auto, KeepRule::Alpha, KeepRule::Paper, KeepRule::Colour, KeepRule::Dark, KeepRule::Light, KeepRule::All};

QColor q(Rgba c) { return {c.r, c.g, c.b}; }

} // namespace

KeepPanel::KeepPanel(Studio& studio, QWidget* parent) : Panel(studio, parent)
{
    makeRule();
    makeHand();
    note_ = addNote();
}

void KeepPanel::makeRule()
{
    rule_ = new QComboBox(this);
    rule_->setObjectName("keep-rule");
    rule_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    for (const QString& text :
         {tr("Chosen by itself"), tr("Transparency"), tr("Unlike the paper"), tr("Chosen colours"), tr("Darker"), tr("Lighter"), tr("Whole picture")})
        rule_->addItem(text);
    addRow(tr("Keep by"), rule_, tr("What tells picture from paper"));
    level_ =
        addNumber(tr("Level"), NumberField::Meaning::Number, 0, 100, 1, tr("Where picture begins: opacity in percent, difference from a colour, or lightness"));
    level_.field->setDecimals(0);
    level_.field->setObjectName("keep-level");
    swatches_ = new Swatches(this);
    swatches_->setObjectName("keep-swatches");
    auto* pick = new IconButton(QStringLiteral("pick"), tr("Pick a colour"), tr("Press the picture on the bench to pick one more colour"), this);
    pick->setCheckable(true);
    pick->setObjectName("keep-pick");
    holds_.emplace_back(pick, Hold::Pick);
    connect(pick, &QAbstractButton::clicked, this, [this] { studio_.hold(Hold::Pick); });
    colours_ = addGroup(tr("Colours"), {swatches_, pick}, tr("The paper's colours, or those to keep"));
    connect(swatches_, &Swatches::removed, this, [this](int index) {
        studio_.editPiece(tr("take a colour out"), [&](Piece& p) {
            auto& list = p.keep.rule == KeepRule::Colour ? p.keep.colours : p.keep.papers;
            if (index < int(list.size()))
                list.erase(list.begin() + index);
        });
    });
    reach_ = new Segmented({tr("Joined"), tr("Anywhere")}, this);
    reach_->setObjectName("keep-reach");
    addRow(tr("Where"), reach_, tr("Paper joined to the picture's edge or anywhere; a colour's one area or everywhere"));
    connect(reach_, &Segmented::chosen, this, [this](int index) {
        studio_.editPiece(tr("change where the rule reaches"), [&](Piece& p) {
            (p.keep.rule == KeepRule::Colour ? p.keep.oneArea : p.keep.paperAnywhere) = (p.keep.rule == KeepRule::Colour) != (index == 1);
        });
    });
    smoothing_ =
        addField(tr("Smoothing"), NumberField::Meaning::Length, tr("Evens out stairs, JPEG hair and scan noise on the edge; found by itself until set"));
    smoothing_->setObjectName("keep-smoothing");
    smoothing_->setRange(0, 10);
    smoothing_->setStep(0.02);
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
    connect(rule_, &QComboBox::activated, this, [this](int index) {
        studio_.editPiece(tr("change what is kept"), [&](Piece& p) {
            p.keep.rule = offered[index];
            p.keep.level.reset(); // a level means something else under another rule
        });
        // Nothing is kept by no colour: the next press picks one.
        if (offered[index] == KeepRule::Colour && studio_.currentPiece() && studio_.currentPiece()->keep.colours.empty() && studio_.hand().hold != Hold::Pick)
            studio_.hold(Hold::Pick);
    });
    bind(level_.field, tr("change the keep level"), [](Piece& p, NumberField* f) { p.keep.level = f->number(); });
    bind(smoothing_, tr("change the smoothing"), [](Piece& p, NumberField* f) { p.keep.smoothing = f->length(); });
    bind(smallest_.field, tr("change the crumb limit"), [](Piece& p, NumberField* f) { p.keep.smallestPart = f->number(); });
    bind(over_, tr("change the opening limit"), [](Piece& p, NumberField* f) { p.keep.openingsOver = f->number(); });
    connect(openings_, &Segmented::chosen, this, [this](int index) {
        studio_.editPiece(tr("change the openings"), [&](Piece& p) {
            p.keep.openings = index == 0 ? Openings::Keep : index == 1 ? Openings::Over : Openings::Fill;
        });
    });
}

void KeepPanel::makeHand()
{
    const auto button = [&](const char* icon, Hold hold, const QString& name, const QString& tip) {
        auto* b = new IconButton(QLatin1String(icon), name, tip, this);
        b->setCheckable(true);
        b->setObjectName(QStringLiteral("keep-") + QLatin1String(icon));
        connect(b, &QAbstractButton::clicked, this, [this, hold] { studio_.hold(hold); });
        holds_.emplace_back(b, hold);
        return b;
    };
    auto* box = button("inside-box", Hold::InsideBox, tr("Box"), tr("Drag a box: only inside it is anything kept"));
    auto* lasso = button("inside-lasso", Hold::InsideLasso, tr("Lasso"), tr("Draw round what may be kept; the outline closes by itself"));
    everywhere_ = new IconButton(QStringLiteral("close"), tr("Everywhere"), tr("Take the outlines away"), this);
    everywhere_->setObjectName("keep-everywhere");
    connect(everywhere_, &QAbstractButton::clicked, this, [this] { studio_.editPiece(tr("keep everywhere"), [](Piece& p) { p.keep.onlyInside.clear(); }); });
    addGroup(tr("Only inside"), {box, lasso, everywhere_}, tr("Outlines in which the rule works"));
    auto* out = button("rub-out", Hold::RubOut, tr("Rub out"), tr("Brush away what is not wanted"));
    auto* back = button("bring-back", Hold::BringBack, tr("Bring back"), tr("Brush back what was lost"));
    auto* like = button("rub-out-like", Hold::RubOutLike, tr("Rub out an area"), tr("Press an area of like colour to rub it out"));
    addGroup(tr("By hand"), {out, back, like}, tr("Every touch is listed and can be taken back"));
    brush_ = addField(tr("Brush"), NumberField::Meaning::Length, tr("How wide the brush is"));
    brush_->setObjectName("keep-brush");
    brush_->setRange(0.05, 500);
    brush_->setStep(0.5);
    tip_ = new Segmented({tr("Round"), tr("Square")}, this);
    addRow(tr("Tip"), tip_, tr("The brush's shape"));
    tolerance_ = addField(tr("Likeness"), NumberField::Meaning::Number, tr("How unlike the pressed colour the area may become (CIEDE2000)"));
    tolerance_->setRange(0.5, 100);
    tolerance_->setStep(1);
    tolerance_->setDecimals(0);
    const auto set = [this](auto change) {
        Hand hand = studio_.hand();
        change(hand);
        studio_.setHand(hand);
    };
    connect(brush_, &NumberField::edited, this, [this, set] { set([&](Hand& h) { h.brush = brush_->length(); }); });
    connect(tolerance_, &NumberField::edited, this, [this, set] { set([&](Hand& h) { h.tolerance = tolerance_->number(); }); });
    connect(tip_, &Segmented::chosen, this, [set](int index) { set([&](Hand& h) { h.square = index == 1; }); });
}

void KeepPanel::refresh()
{
    const Piece* piece = studio_.currentPiece();
    setEnabled(piece != nullptr);
    for (NumberField* f : {smoothing_, brush_})
        f->setUnit(studio_.unit());
    if (!piece)
        return;
    const KeepSpec& k = piece->keep;
    for (int i = 0; i < int(std::size(offered)); ++i)
        if (offered[i] == k.rule)
            rule_->setCurrentIndex(i);
    const PieceResult* r = studio_.currentResult();
    const Coverage* used = r ? r->coverage.get() : nullptr;
    const double level = k.level.value_or(used ? used->level : 50);
    level_.slider->setReal(level);
    level_.field->setNumber(level);
    const KeepRule rule = used && k.rule == KeepRule::Auto ? used->rule : k.rule;
    // Only what means something for the rule, chosen by itself or not.
    for (QWidget* w : {static_cast<QWidget*>(level_.slider), static_cast<QWidget*>(level_.field), static_cast<QWidget*>(smoothing_)})
        showRow(w, rule != KeepRule::All);
    const bool byColour = rule == KeepRule::Paper || rule == KeepRule::Colour;
    showRow(colours_, byColour);
    showRow(reach_, byColour);
    if (byColour) {
        const auto& own = rule == KeepRule::Colour ? k.colours : k.papers;
        std::vector<QColor> colours;
        for (const Swatch& s : own)
            colours.push_back(q(s.colour));
        if (own.empty() && rule == KeepRule::Paper && used)
            for (const Rgba c : used->papers)
                colours.push_back(q(c));
        swatches_->setColours(std::move(colours), !own.empty());
        if (QLabel* label = labelOf(colours_))
            label->setText(rule == KeepRule::Colour ? tr("Colours") : tr("Paper"));
        reach_->setCurrent(k.rule == KeepRule::Colour ? !k.oneArea : k.paperAnywhere);
    }
    smoothing_->setLength(k.smoothing.value_or(used && r ? Length::mm(used->smoothing / r->pxPerMm) : Length()));
    smallest_.slider->setReal(k.smallestPart);
    smallest_.field->setNumber(k.smallestPart);
    openings_->setCurrent(k.openings == Openings::Keep ? 0 : k.openings == Openings::Over ? 1 : 2);
    over_->setNumber(k.openingsOver);
    showRow(over_, k.openings == Openings::Over);

    const Hand& hand = studio_.hand();
    for (const auto& [button, hold] : holds_)
        button->setChecked(hand.hold == hold);
    everywhere_->setEnabled(!k.onlyInside.empty());
    const bool brushing = hand.hold == Hold::RubOut || hand.hold == Hold::BringBack;
    showRow(brush_, brushing);
    showRow(tip_, brushing);
    showRow(tolerance_, hand.hold == Hold::RubOutLike);
    brush_->setLength(hand.brush);
    tip_->setCurrent(hand.square);
    tolerance_->setNumber(hand.tolerance);

    QString note;
    if (hand.hold == Hold::Pick)
        note = k.rule == KeepRule::Colour ? tr("Press a colour to keep.") : tr("Press the paper.");
    else if (used && k.rule == KeepRule::Auto)
        note = tr("%1: %2.").arg(used->rule == KeepRule::Alpha   ? tr("By transparency")
                                 : used->rule == KeepRule::Paper ? tr("Unlike the paper")
                                                                 : tr("The whole picture"),
                                 QString::fromStdString(used->why));
    note_->setText(note);
    note_->setVisible(!note.isEmpty());
}

} // namespace yokai
