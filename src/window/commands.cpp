#include "commands.h"

#include <QAction>
#include <QDialog>
#include <QGridLayout>
#include <QLabel>
#include <QMenu>

namespace yokai {

Commands::Commands(std::vector<Command> table, QMenu& menu, QWidget& window) : table_(std::move(table))
{
    for (const Command& c : table_) {
        auto* action = new QAction(c.text, &window);
        action->setObjectName(QLatin1String(c.id));
        action->setShortcuts(c.keys);
        action->setShortcutContext(Qt::WindowShortcut);
        QObject::connect(action, &QAction::triggered, &window, c.run);
        window.addAction(action);
        if (c.inMenu)
            menu.addAction(action);
        if (c.inMenu && c.gapAfter)
            menu.addSeparator();
        actions_.push_back(action);
    }
    QObject::connect(&menu, &QMenu::aboutToShow, &window, [this] { refresh(); });
}

QAction* Commands::action(const char* id) const
{
    for (std::size_t i = 0; i < table_.size(); ++i)
        if (qstrcmp(table_[i].id, id) == 0)
            return actions_[i];
    return nullptr;
}

void Commands::refresh()
{
    for (std::size_t i = 0; i < table_.size(); ++i)
        actions_[i]->setEnabled(!table_[i].enabled || table_[i].enabled());
}

void Commands::showKeys(QWidget* parent, const std::vector<KeyHint>& hints) const
{
    QDialog dialog(parent);
    dialog.setObjectName("keys");
    dialog.setWindowTitle(QObject::tr("Keys"));
    auto* grid = new QGridLayout(&dialog);
    grid->setContentsMargins(24, 20, 24, 20);
    grid->setHorizontalSpacing(28);
    grid->setVerticalSpacing(5);
    std::vector<KeyHint> rows;
    for (const Command& c : table_)
        if (!c.keys.isEmpty())
            rows.push_back({QString(c.text).remove(QChar(0x2026)), c.keys.first().toString(QKeySequence::NativeText)});
    rows.insert(rows.end(), hints.begin(), hints.end());
    constexpr std::size_t columns = 3;
    const std::size_t high = (rows.size() + columns - 1) / columns;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        auto* keys = new QLabel(rows[i].key, &dialog);
        keys->setProperty("role", "soft");
        const int column = int(i / high) * 2;
        grid->addWidget(new QLabel(rows[i].what, &dialog), int(i % high), column);
        grid->addWidget(keys, int(i % high), column + 1);
    }
    dialog.exec();
}

} // namespace yokai
