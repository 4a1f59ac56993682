#include "trail/rows.h"

#include "theme/theme.h"
#include "trail/shelf.h"

#include <QCheckBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QSettings>
#include <QSignalBlocker>
#include <QUrl>

namespace yokai {

namespace {

// A length's finest step that a maker means: a tenth of a mm, a 64th of an inch.
constexpr double usualStep = 0.1;

template <class T> std::function<std::optional<double>()> asDouble(const std::function<std::optional<T>()>& found)
{
    if (!found)
        return {};
    return [found]() -> std::optional<double> {
        const auto value = found();
        return value ? std::optional<double>(fields::plain(*value)) : std::nullopt;
    };
}

} // namespace

Scope<Piece> RowPanel::pieceScope() const
{
    return [this](Job& job) { return desk_.currentPiece() ? yokai::find(job, desk_.currentPiece()->id) : nullptr; };
}

Scope<Layer> RowPanel::layerScope() const
{
    return [this, piece = pieceScope()](Job& job) -> Layer* {
        if (Piece* p = piece(job))
            for (Layer& layer : p->layers)
                if (layer.id == desk_.layerId())
                    return &layer;
        return nullptr;
    };
}

Scope<KeepSpec> RowPanel::keepScope() const
{
    return [layer = layerScope()](Job& job) { return layer(job) ? &layer(job)->keep : nullptr; };
}

Scope<LineSpec> RowPanel::lineScope() const
{
    return [this, layer = layerScope()](Job& job) -> LineSpec* {
        Layer* l = layer(job);
        const int at = desk_.line();
        return l && at >= 0 && at < int(l->lines.size()) ? &l->lines[std::size_t(at)] : nullptr;
    };
}

QString RowPanel::doing(const QString& label) const { return tr("change %1").arg(label.toLower()); }

Job& RowPanel::seen() const { return const_cast<Job&>(desk_.job()); }

void RowPanel::apply(NumberField::How how, const QString& what, const std::function<void(Job&)>& change)
{
    switch (how) {
    case NumberField::How::Typed:
        desk_.edit(what, change);
        break;
    case NumberField::How::Stepped:
        desk_.edit(what, change, what);
        break;
    case NumberField::How::Trying:
        desk_.tryOut(change);
        break;
    case NumberField::How::Kept:
        desk_.tryOut(change);
        desk_.keep(what);
        break;
    case NumberField::How::Dropped:
        desk_.drop();
        break;
    }
}

Row& RowPanel::add(Row row)
{
    row.fold = fold_;
    row.control->setObjectName(row.id);
    rows_.push_back(std::move(row));
    return rows_.back();
}

// A control with a small button to its right; or the button alone, as far right.
QWidget* RowPanel::beside(QWidget* control, QWidget* button, QWidget* parent)
{
    auto* both = new QWidget(parent);
    auto* layout = new QHBoxLayout(both);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    if (control)
        layout->addWidget(control, 1);
    else
        layout->addStretch(1);
    layout->addWidget(button);
    return both;
}

BeadSlider* RowPanel::sliderOf(const Number& n, NumberField* field, QWidget* parent)
{
    auto* slider = new BeadSlider(parent);
    slider->setSpan(n.sliderLeast, n.sliderMost, (n.step > 0 ? n.step : usualStep) / 2);
    slider->setAccessibleName(n.label);
    slider->setObjectName(n.name + QStringLiteral("-slider"));
    connect(slider, &BeadSlider::slid, field, [field](double v, NumberField::How how) { field->setPlain(v, how); });
    return slider;
}

NumberField* RowPanel::field(Number n)
{
    auto* field = new NumberField(n.meaning, this);
    auto* label = new ScrubLabel(n.label, field, this);
    field->setRange(n.limits.given ? n.limits.least : -1e6, n.limits.given ? n.limits.most : 1e6);
    field->setStep(n.step > 0 ? n.step : usualStep);
    field->setDecimals(n.decimals);
    field->setSuffix(n.suffix);
    field->setAccessibleName(n.label);
    if (n.mayBePercent)
        field->allowPercent();
    Row row;
    row.id = n.name;
    row.label = label;
    row.control = field;
    row.shown = n.shown;
    const QString what = doing(n.label);
    const auto change = [this, n, field, what](NumberField::How how) { apply(how, what, [&](Job& job) { n.set(job, *field); }); };
    connect(field, &NumberField::edited, this, change);

    QWidget* middle = nullptr;
    BeadSlider* slider = nullptr;
    if (n.sliderMost > n.sliderLeast) {
        slider = sliderOf(n, field, this);
        row.others.push_back(middle = slider);
    }
    QAbstractButton* back = nullptr;
    if (n.reset) {
        auto* button =
            new IconButton(QStringLiteral("automatic"), tr("%1: automatic").arg(n.label), n.automatic.isEmpty() ? tr("Back to automatic") : n.automatic, this);
        button->setObjectName(row.id + QStringLiteral("-auto"));
        button->setCheckable(true);
        connect(button, &QAbstractButton::clicked, this, [this, n, what] { desk_.edit(what, n.reset); });
        back = button;
        middle = beside(middle, button, this);
        row.others.push_back(middle);
    }
    for (QWidget* w : {static_cast<QWidget*>(label), static_cast<QWidget*>(field), static_cast<QWidget*>(slider)})
        if (w)
            w->setToolTip(n.tip);
    row.refresh = [this, n, field, slider, back] {
        field->setUnit(desk_.unit());
        const auto now = n.get(seen());
        const auto shown = now ? now : n.found ? n.found() : std::nullopt;
        if (now)
            n.show(*field, seen());
        else if (n.meaning == NumberField::Meaning::Length || n.meaning == NumberField::Meaning::Speed)
            field->setLength(Length::mm(shown.value_or(0)));
        else
            field->setNumber(shown.value_or(0));
        field->setAutomatic(n.reset && !now);
        if (back) {
            back->setChecked(!now);
            back->setEnabled(now.has_value());
        }
        if (slider)
            slider->setReal(field->percent() ? *field->percent() : shown.value_or(0));
    };
    addRow(label, middle, field);
    add(std::move(row));
    return field;
}

NumberField* RowPanel::number(RowSpec<Length> s)
{
    return field({NumberField::Meaning::Length,
                  s.labelText,
                  s.tipText,
                  {},
                  s.automaticText,
                  s.name,
                  [get = s.get](Job& job) -> std::optional<double> {
                      const auto v = get(job);
                      return v ? std::optional<double>(v->mm()) : std::nullopt;
                  },
                  [set = s.set, percent = s.setPercent](Job& job, const NumberField& f) {
                      if (percent && f.percent())
                          percent(job, *f.percent());
                      else
                          set(job, f.length());
                  },
                  [get = s.get, percent = s.getPercent](NumberField& f, Job& job) {
                      if (const auto p = percent ? percent(job) : std::nullopt)
                          f.setPercent(*p);
                      else
                          f.setLength(get(job).value_or(Length()));
                  },
                  s.reset,
                  asDouble(s.found),
                  s.shown,
                  s.limits,
                  s.stepSize,
                  s.sliderLeast,
                  s.sliderMost,
                  s.decimalPlaces,
                  bool(s.setPercent)});
}

NumberField* RowPanel::number(RowSpec<Speed> s)
{
    Number n{NumberField::Meaning::Speed, s.labelText, s.tipText, {}, s.automaticText, s.name, {}, {}, {}, s.reset, {}, s.shown, limitsOf(&Speed::perMinute), 1, 0, 0, 0};
    n.get = [get = s.get](Job& job) -> std::optional<double> {
        const auto v = get(job);
        return v ? std::optional<double>(v->perMinute.mm()) : std::nullopt;
    };
    n.set = [set = s.set](Job& job, const NumberField& f) { set(job, Speed{f.length()}); };
    n.show = [get = s.get](NumberField& f, Job& job) { f.setLength(get(job).value_or(Speed{}).perMinute); };
    if (s.found)
        n.found = [found = s.found]() -> std::optional<double> {
            const auto v = found();
            return v ? std::optional<double>(v->perMinute.mm()) : std::nullopt;
        };
    return field(std::move(n));
}

NumberField* RowPanel::number(RowSpec<double> s)
{
    return field({s.isArea ? NumberField::Meaning::Area : NumberField::Meaning::Number, s.labelText, s.tipText, s.suffixText, s.automaticText, s.name, s.get,
                  [set = s.set](Job& job, const NumberField& f) { set(job, f.number()); },
                  [get = s.get](NumberField& f, Job& job) { f.setNumber(get(job).value_or(0)); }, s.reset, s.found, s.shown, s.limits, s.stepSize,
                  s.sliderLeast, s.sliderMost, s.decimalPlaces});
}

NumberField* RowPanel::number(RowSpec<int> s)
{
    return field({NumberField::Meaning::Number, s.labelText, s.tipText, s.suffixText, s.automaticText, s.name,
                  [get = s.get](Job& job) -> std::optional<double> {
                      const auto v = get(job);
                      return v ? std::optional<double>(*v) : std::nullopt;
                  },
                  [set = s.set](Job& job, const NumberField& f) { set(job, int(std::lround(f.number()))); },
                  [get = s.get](NumberField& f, Job& job) { f.setNumber(get(job).value_or(0)); }, s.reset, asDouble(s.found), s.shown, s.limits,
                  s.stepSize > 0 ? s.stepSize : 1, s.sliderLeast, s.sliderMost, 0});
}

QCheckBox* RowPanel::tick(RowSpec<bool> s)
{
    auto* box = new QCheckBox(s.labelText, this);
    box->setToolTip(s.tipText);
    const QString what = doing(s.labelText);
    connect(box, &QCheckBox::clicked, this, [this, set = s.set, what](bool on) { desk_.edit(what, [&](Job& job) { set(job, on); }); });
    Row row;
    row.id = s.name;
    row.control = box;
    row.shown = s.shown;
    row.refresh = [this, box, get = s.get] { box->setChecked(get(seen()).value_or(false)); };
    addWide(box);
    add(std::move(row));
    return box;
}

TextField* RowPanel::words(RowSpec<std::string> s)
{
    auto* field = new TextField(this);
    auto* label = new QLabel(s.labelText, this);
    label->setBuddy(field);
    field->setAccessibleName(s.labelText);
    for (QWidget* w : {static_cast<QWidget*>(label), static_cast<QWidget*>(field)})
        w->setToolTip(s.tipText);
    const QString what = doing(s.labelText);
    const auto refresh = [this, field, get = s.get] {
        if (field->hasFocus() && field->isModified())
            return;
        const QString now = QString::fromStdString(get(seen()).value_or(std::string()));
        if (field->text() != now)
            field->setText(now);
        field->setModified(false);
    };
    connect(field, &QLineEdit::editingFinished, this, [this, field, set = s.set, what, refresh] {
        if (!field->isModified())
            return;
        field->setModified(false);
        const std::string now = field->text().trimmed().toStdString();
        if (!now.empty())
            desk_.edit(what, [&](Job& job) { set(job, now); });
        refresh();
    });
    Row row;
    row.id = s.name;
    row.label = label;
    row.control = field;
    row.shown = s.shown;
    row.refresh = refresh;
    addRow(label, field, nullptr);
    add(std::move(row));
    return field;
}

void RowPanel::place(QWidget* control, const Choice& c, std::function<void()> refresh)
{
    QLabel* label = nullptr;
    control->setAccessibleName(c.label);
    control->setToolTip(c.tip);
    if (c.wide)
        addWide(control);
    else {
        label = new QLabel(c.label, this);
        label->setBuddy(control);
        label->setToolTip(c.tip);
        addRow(label, control, nullptr);
    }
    Row row;
    row.id = c.name;
    row.label = label;
    row.control = control;
    row.shown = c.shown;
    row.refresh = std::move(refresh);
    add(std::move(row));
}

Segmented* RowPanel::segments(Choice c)
{
    auto* control = new Segmented(c.texts, this);
    connect(control, &Segmented::chosen, this, [this, set = c.set, what = doing(c.label)](int index) { desk_.edit(what, [&](Job& job) { set(job, index); }); });
    place(control, c, [this, control, get = c.get] { control->setCurrent(get(seen()).value_or(0)); });
    return control;
}

ChoiceBox* RowPanel::box(Choice c)
{
    auto* control = new ChoiceBox(this);
    control->addItems(c.texts);
    connect(control, &QComboBox::activated, this,
            [this, set = c.set, what = doing(c.label)](int index) { desk_.edit(what, [&](Job& job) { set(job, index); }); });
    place(control, c, [this, control, get = c.get] { control->setCurrentIndex(get(seen()).value_or(-1)); });
    return control;
}

void RowPanel::layerBox(const char* id)
{
    auto* box = new ChoiceBox(this);
    box->setAccessibleName(tr("Layer"));
    box->setToolTip(tr("The layer that is worked on"));
    auto* label = new QLabel(tr("Layer"), this);
    label->setToolTip(box->toolTip());
    addRow(label, box, nullptr);
    // As they lie, the uppermost first.
    connect(box, &QComboBox::activated, this, [this](int index) {
        const auto& layers = desk_.currentPiece()->layers;
        desk_.setLayer(layers[layers.size() - 1 - std::size_t(index)].id);
    });
    Row row; // without a name: it sets nothing of the job
    row.label = label;
    row.control = box;
    row.shown = [this] { return desk_.currentPiece() && desk_.currentPiece()->layers.size() > 1; };
    row.refresh = [this, box] {
        const QSignalBlocker quiet(box);
        box->clear();
        const auto& layers = desk_.currentPiece()->layers;
        for (auto layer = layers.rbegin(); layer != layers.rend(); ++layer) {
            box->addItem(QString::fromStdString(layer->name));
            if (layer->id == desk_.layerId())
                box->setCurrentIndex(box->count() - 1);
        }
    };
    add(std::move(row));
    box->setObjectName(QLatin1String(id));
}

void RowPanel::fold(const char* id, const QString& label)
{
    fold_ = new Fold(QLatin1String(id), label, this);
    connect(fold_, &QAbstractButton::toggled, this, &RowPanel::refresh);
    addWide(fold_);
}

void RowPanel::endFold() { fold_ = nullptr; }

void RowPanel::shelf(const char* id, const QString& what, std::function<QStringList()> read, std::function<bool(const QString&, const QStringList&)> put)
{
    const QString group = QStringLiteral("kept/") + QLatin1String(id);
    const auto key = [group](const QString& name) { return group + QLatin1Char('/') + QString::fromLatin1(QUrl::toPercentEncoding(name)); };
    Shelf::Of of{QLatin1String(id), what, {}, {}, {}, {}};
    of.names = [group] {
        QSettings settings;
        settings.beginGroup(group);
        QStringList names;
        for (const QString& name : settings.childKeys())
            names << QUrl::fromPercentEncoding(name.toLatin1());
        return names;
    };
    of.use = [this, key, put = std::move(put)](const QString& name) {
        if (!put(name, QSettings().value(key(name)).toStringList()))
            desk_.say(tr("'%1' cannot be read any more; keep it again.").arg(name), Severity::Error);
    };
    of.keep = [key, read = std::move(read)](const QString& name) { QSettings().setValue(key(name), read()); };
    of.drop = [key](const QString& name) { QSettings().remove(key(name)); };
    auto* made = new Shelf(std::move(of), this);
    addWide(made);
    keepShown(made, {});
}

void RowPanel::keepShown(QWidget* control, std::function<bool()> when)
{
    Row row;
    row.id = control->objectName();
    row.control = control;
    row.label = labelOf(control);
    row.shown = std::move(when);
    add(std::move(row));
}

IconButton* RowPanel::holder(const char* station, const char* icon, Hold hold, const QString& name, const QString& tip)
{
    auto* button = new IconButton(QLatin1String(icon), name, tip, this);
    button->setCheckable(true);
    button->setObjectName(QLatin1String(station) + QLatin1Char('-') + QLatin1String(icon));
    connect(button, &QAbstractButton::clicked, this, [this, hold] { desk_.hold(hold); });
    holds_.emplace_back(button, hold);
    return button;
}

void RowPanel::refresh()
{
    for (const auto& [button, hold] : holds_)
        button->setChecked(desk_.hand().hold == hold);
    for (const Row& row : rows_) {
        const bool open = !row.fold || static_cast<const Fold*>(row.fold)->isChecked();
        const bool on = open && (!row.shown || row.shown());
        row.control->setVisible(on);
        if (row.label)
            row.label->setVisible(on);
        for (QWidget* other : row.others)
            other->setVisible(on);
        if (on && row.refresh)
            row.refresh();
    }
    // A fold with nothing under it that means anything is not there.
    for (QWidget* f : findChildren<Fold*>())
        f->setVisible(std::any_of(rows_.begin(), rows_.end(), [&](const Row& r) { return r.fold == f && (!r.shown || r.shown()); }));
    refreshRest();
}

Fold::Fold(const QString& id, const QString& label, QWidget* parent) : QAbstractButton(parent)
{
    setObjectName(QStringLiteral("fold-") + id);
    setText(label);
    setAccessibleName(tr("More: %1").arg(label));
    setCheckable(true);
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    const QString key = QStringLiteral("fold/") + id;
    setChecked(QSettings().value(key, false).toBool());
    connect(this, &QAbstractButton::toggled, this, [key](bool open) { QSettings().setValue(key, open); });
}

QSize Fold::sizeHint() const { return {120, fontMetrics().height() + 12}; }

void Fold::paintEvent(QPaintEvent*)
{
    const auto& c = theme::colours();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(c.line, 1));
    p.drawLine(QPointF(0, 0.5), QPointF(width(), 0.5));
    const double x = 5, y = height() / 2.0 + 1;
    p.setPen(Qt::NoPen);
    p.setBrush(hasFocus() ? c.accent : c.inkSoft);
    p.drawPolygon(isChecked() ? QPolygonF{{x - 4, y - 2.5}, {x + 4, y - 2.5}, {x, y + 3}} : QPolygonF{{x - 2.5, y - 4}, {x + 3, y}, {x - 2.5, y + 4}});
    p.setPen(hasFocus() ? c.accent : c.inkSoft);
    p.setFont(theme::font(12));
    p.drawText(QRectF(16, 0, width() - 16, height() + 2), Qt::AlignVCenter | Qt::AlignLeft, p.fontMetrics().elidedText(text(), Qt::ElideRight, width() - 16));
}

} // namespace yokai
