// Rows: one declaration a control.
//
// A row says its name, label and tip, how its value is read from a job and put into one,
// and when it means anything. From that come the control, its undo step, unit, scrubbing,
// going back to automatic, visibility, accessible name, and its test (tests/test_rows.cpp
// sets every row of every panel, saves, reads and looks again).
//
//     number(on(line(), &LineSpec::joinGap).id("join-gap").label(tr("Join gaps")).tip(...).slider(0, 10));
//
// The limits come from the spec's own list of fields.
#pragma once

#include "base/fields.h"
#include "base/speed.h"
#include "desk/desk.h"
#include "theme/controls.h"

#include <functional>
#include <optional>
#include <utility>
#include <vector>

class QCheckBox;
class QLabel;
class QToolButton;

namespace yokai {

// Where in a job a spec lies; null where there is none.
template <class S> using Scope = std::function<S*(Job&)>;

// What a row says, whatever kind of control it becomes.
template <class T> struct RowSpec {
    std::function<std::optional<T>(Job&)> get; // nothing: automatic, or there is no such spec now
    std::function<void(Job&, const T&)> set;
    std::function<void(Job&)> reset;         // back to automatic; null: there is none
    std::function<std::optional<T>()> found; // what automatic came to
    std::function<bool()> shown;             // null: always
    Limits limits;
    QString name, labelText, tipText, suffixText, automaticText;
    double stepSize = 0;
    int decimalPlaces = 2;
    double sliderLeast = 0, sliderMost = 0;
    bool isWide = false, isArea = false;
    std::vector<std::pair<T, QString>> options;
    // A length that may be given as a percentage of something instead, as 3%.
    std::function<std::optional<double>(Job&)> getPercent;
    std::function<void(Job&, double)> setPercent;

    RowSpec&& id(const QString& text) && { return name = text, std::move(*this); } // the control's object name
    RowSpec&& label(const QString& text) && { return labelText = text, std::move(*this); }
    RowSpec&& tip(const QString& text) && { return tipText = text, std::move(*this); }
    RowSpec&& when(std::function<bool()> test) && { return shown = std::move(test), std::move(*this); }
    RowSpec&& wide() && { return isWide = true, std::move(*this); } // a list over the whole row, its label only spoken
    RowSpec&& step(double size, int decimals = 2) && { return stepSize = size, decimalPlaces = decimals, std::move(*this); }
    RowSpec&& area() && { return isArea = true, std::move(*this); } // mm2, shown and typed in the chosen unit
    RowSpec&& suffix(const QString& text) && { return suffixText = text, std::move(*this); }
    RowSpec&& slider(double least, double most) && { return sliderLeast = least, sliderMost = most, std::move(*this); }
    RowSpec&& within(double least, double most) && { return limits = {least, most, true}, std::move(*this); }
    RowSpec&& otherwise(std::function<std::optional<T>()> value) && { return found = std::move(value), std::move(*this); }
    RowSpec&& automatic(const QString& text) && { return automaticText = text, std::move(*this); }
    RowSpec&& percent(std::function<std::optional<double>(Job&)> read, std::function<void(Job&, double)> put) &&
    {
        getPercent = std::move(read);
        setPercent = std::move(put);
        return std::move(*this);
    }
    RowSpec&& of(std::vector<std::pair<T, QString>> all) && { return options = std::move(all), std::move(*this); }
};

// A row for a field of a spec.
template <class S, class B, class T> auto on(Scope<S> scope, T B::*member)
{
    if constexpr (IsOptional<T>::value) {
        using V = typename T::value_type;
        RowSpec<V> row;
        row.get = [scope, member](Job& job) -> std::optional<V> {
            const S* spec = scope(job);
            return spec ? spec->*member : std::nullopt;
        };
        row.set = [scope, member](Job& job, const V& value) {
            if (S* spec = scope(job))
                spec->*member = value;
        };
        row.reset = [scope, member](Job& job) {
            if (S* spec = scope(job))
                (spec->*member).reset();
        };
        row.limits = limitsOf(member);
        return row;
    } else {
        RowSpec<T> row;
        row.get = [scope, member](Job& job) -> std::optional<T> {
            const S* spec = scope(job);
            return spec ? std::optional<T>(spec->*member) : std::nullopt;
        };
        row.set = [scope, member](Job& job, const T& value) {
            if (S* spec = scope(job))
                spec->*member = value;
        };
        row.limits = limitsOf(member);
        return row;
    }
}

// A row for what is no single field.
template <class T> RowSpec<T> by(std::function<std::optional<T>(Job&)> get, std::function<void(Job&, const T&)> set)
{
    RowSpec<T> row;
    row.get = std::move(get);
    row.set = std::move(set);
    return row;
}

// A row as it stands in a panel.
struct Row {
    QString id;
    QLabel* label = nullptr;
    QWidget* control = nullptr; // what carries the id
    std::vector<QWidget*> others;
    std::function<bool()> shown;
    std::function<void()> refresh; // shows what the job has
    QWidget* fold = nullptr;       // the fold it lies under
};

class Fold;

class RowPanel : public PanelGrid {
    Q_OBJECT
public:
    RowPanel(Desk& desk, QWidget* parent) : PanelGrid(parent), desk_(desk) {}
    void refresh();
    const std::vector<Row>& rows() const { return rows_; }

protected:
    NumberField* number(RowSpec<Length> spec);
    NumberField* number(RowSpec<Speed> spec);
    NumberField* number(RowSpec<double> spec);
    NumberField* number(RowSpec<int> spec);
    QCheckBox* tick(RowSpec<bool> spec);
    TextField* words(RowSpec<std::string> spec);
    template <class E> Segmented* choice(RowSpec<E> spec) { return segments(plain(std::move(spec))); } // few, side by side
    template <class E> ChoiceBox* list(RowSpec<E> spec) { return box(plain(std::move(spec))); }        // more, in a list
    // Rows until endFold() lie under a line that says what it holds and remembers how it was left.
    void fold(const char* id, const QString& label);
    void endFold();
    // Of a piece of several layers the one that the other rows are of.
    void layerBox(const char* id);
    // A button that takes a tool in hand, or puts it down.
    IconButton* holder(const char* station, const char* icon, Hold hold, const QString& name, const QString& tip);
    // What is kept under names in the maker's settings: `read` is what there is now, `put` uses what was kept and says whether it could.
    void shelf(const char* id, const QString& what, std::function<QStringList()> read, std::function<bool(const QString& name, const QStringList& kept)> put);
    // Anything else that comes and goes.
    void keepShown(QWidget* control, std::function<bool()> when);
    virtual void refreshRest() {} // what is no row

    Scope<Piece> pieceScope() const;
    Scope<Layer> layerScope() const; // the one worked on
    Scope<KeepSpec> keepScope() const;
    Scope<LineSpec> lineScope() const;
    Desk& desk_;

private:
    // A choice by its place in the list of options.
    struct Choice {
        QString label, tip, name;
        QStringList texts;
        std::function<std::optional<int>(Job&)> get;
        std::function<void(Job&, int)> set;
        std::function<bool()> shown;
        bool wide = false;
    };
    template <class E> Choice plain(RowSpec<E> spec)
    {
        QStringList texts;
        std::vector<E> values;
        for (const auto& [value, text] : spec.options) {
            texts << text;
            values.push_back(value);
        }
        return {spec.labelText,
                spec.tipText,
                spec.name,
                texts,
                [get = spec.get, values](Job& job) -> std::optional<int> {
                    if (const auto now = get(job))
                        for (std::size_t i = 0; i < values.size(); ++i)
                            if (values[i] == *now)
                                return int(i);
                    return std::nullopt;
                },
                [set = spec.set, values](Job& job, int index) { set(job, values[std::size_t(index)]); },
                spec.shown,
                spec.isWide};
    }
    // A number field in plain doubles: mm for lengths.
    struct Number {
        NumberField::Meaning meaning;
        QString label, tip, suffix, automatic, name;
        std::function<std::optional<double>(Job&)> get;
        std::function<void(Job&, const NumberField&)> set;
        std::function<void(NumberField&, Job&)> show; // exactly as it is stored
        std::function<void(Job&)> reset;
        std::function<std::optional<double>()> found;
        std::function<bool()> shown;
        Limits limits;
        double step, sliderLeast, sliderMost;
        int decimals;
        bool mayBePercent = false;
    };
    void place(QWidget* control, const Choice& choice, std::function<void()> refresh);
    Segmented* segments(Choice choice);
    ChoiceBox* box(Choice choice);
    NumberField* field(Number number);
    static QWidget* beside(QWidget* control, QWidget* button, QWidget* parent);
    static BeadSlider* sliderOf(const Number& number, NumberField* field, QWidget* parent);
    void apply(NumberField::How how, const QString& what, const std::function<void(Job&)>& change);
    QString doing(const QString& label) const; // what undo calls it
    Job& seen() const;                         // for reading only
    Row& add(Row row);
    std::vector<Row> rows_;
    std::vector<std::pair<IconButton*, Hold>> holds_;
    Fold* fold_ = nullptr;
};

// The line a fold is opened by.
class Fold : public QAbstractButton {
    Q_OBJECT
public:
    Fold(const QString& id, const QString& label, QWidget* parent);
    QSize sizeHint() const override;

protected:
    void paintEvent(QPaintEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }
};

} // namespace yokai
