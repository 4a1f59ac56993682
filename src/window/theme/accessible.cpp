#include "theme/accessible.h"

#include <QAccessibleWidget>
#include <QPointer>
#include <QWidget>

#include <map>

namespace yokai {

namespace {

class DrawnWidget;

class PartInterface : public QAccessibleInterface, public QAccessibleActionInterface {
public:
    PartInterface(QWidget* widget, int index) : widget_(widget), index_(index) {}
    bool isValid() const override { return widget_ && index_ < int(parts().size()); }
    QObject* object() const override { return nullptr; }
    QWindow* window() const override { return widget_->window()->windowHandle(); }
    QAccessibleInterface* parent() const override { return QAccessible::queryAccessibleInterface(widget_); }
    QAccessibleInterface* child(int) const override { return nullptr; }
    QAccessibleInterface* childAt(int, int) const override { return nullptr; }
    int childCount() const override { return 0; }
    int indexOfChild(const QAccessibleInterface*) const override { return -1; }
    QString text(QAccessible::Text t) const override { return t == QAccessible::Name && isValid() ? part().name : QString(); }
    void setText(QAccessible::Text, const QString&) override {}
    QRect rect() const override { return isValid() ? QRect(widget_->mapToGlobal(part().place.topLeft()), part().place.size()) : QRect(); }
    QAccessible::Role role() const override { return isValid() ? part().role : QAccessible::NoRole; }
    QAccessible::State state() const override
    {
        QAccessible::State s;
        if (!isValid())
            return s;
        const bool checks = part().role == QAccessible::RadioButton || part().role == QAccessible::CheckBox;
        s.checkable = checks;
        s.checked = checks && part().on;
        s.selectable = !checks;
        s.selected = !checks && part().on;
        s.disabled = !widget_->isEnabled();
        s.invisible = !widget_->isVisible();
        return s;
    }
    void* interface_cast(QAccessible::InterfaceType t) override
    {
        return t == QAccessible::ActionInterface ? static_cast<QAccessibleActionInterface*>(this) : nullptr;
    }
    QStringList actionNames() const override { return {pressAction()}; }
    void doAction(const QString& action) override
    {
        if (action == pressAction())
            dynamic_cast<Drawn*>(widget_.data())->pressPart(index_);
    }
    QStringList keyBindingsForAction(const QString&) const override { return {}; }

private:
    std::vector<DrawnPart> parts() const { return dynamic_cast<const Drawn*>(widget_.data())->drawnParts(); }
    DrawnPart part() const { return parts()[std::size_t(index_)]; }
    QPointer<QWidget> widget_;
    int index_;
};

class DrawnWidget : public QAccessibleWidget {
public:
    explicit DrawnWidget(QWidget* widget) : QAccessibleWidget(widget, dynamic_cast<Drawn*>(widget)->drawnRole()) {}
    ~DrawnWidget() override
    {
        for (const auto& [index, id] : ids_)
            QAccessible::deleteAccessibleInterface(id);
    }
    int childCount() const override { return int(drawn()->drawnParts().size()) + QAccessibleWidget::childCount(); }
    QAccessibleInterface* child(int index) const override
    {
        const int parts = int(drawn()->drawnParts().size());
        if (index < 0 || index >= parts)
            return QAccessibleWidget::child(index - parts);
        auto [at, added] = ids_.try_emplace(index, 0);
        if (added)
            at->second = QAccessible::registerAccessibleInterface(new PartInterface(widget(), index));
        return QAccessible::accessibleInterface(at->second);
    }
    int indexOfChild(const QAccessibleInterface* child) const override
    {
        for (const auto& [index, id] : ids_)
            if (QAccessible::accessibleInterface(id) == child)
                return index;
        return QAccessibleWidget::indexOfChild(child);
    }

private:
    const Drawn* drawn() const { return dynamic_cast<const Drawn*>(widget()); }
    mutable std::map<int, QAccessible::Id> ids_;
};

QAccessibleInterface* factory(const QString&, QObject* object)
{
    auto* widget = qobject_cast<QWidget*>(object);
    return widget && dynamic_cast<Drawn*>(widget) ? new DrawnWidget(widget) : nullptr;
}

} // namespace

void installAccessibility()
{
    static const bool once = (QAccessible::installFactory(factory), true);
    (void)once;
}

void tellParts(QWidget* drawn)
{
    QAccessible::State changed;
    changed.checked = changed.selected = true;
    QAccessibleStateChangeEvent event(drawn, changed);
    QAccessible::updateAccessibility(&event);
}

} // namespace yokai
