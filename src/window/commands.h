// What can be done, in one table: the menu, the keys, the list of keys and their tests
// come from it.
#pragma once

#include <QKeySequence>
#include <QList>
#include <QString>

#include <functional>
#include <vector>

class QAction;
class QMenu;
class QWidget;

namespace yokai {

struct Command {
    const char* id;
    QString text;
    QList<QKeySequence> keys;      // any of them; the first is shown
    std::function<void()> run;
    std::function<bool()> enabled; // null: always
    bool inMenu = true;
    bool gapAfter = false; // a line below it in the menu
};

// Keys that belong to the bench or a field and not to the whole window.
struct KeyHint {
    QString what, key;
};

class Commands {
public:
    // Fills the menu and gives the window the keys. Run() goes through the action, so that a
    // command that is not enabled does nothing.
    Commands(std::vector<Command> table, QMenu& menu, QWidget& window);
    const std::vector<Command>& table() const { return table_; }
    QAction* action(const char* id) const;
    void refresh(); // what is enabled
    void showKeys(QWidget* parent, const std::vector<KeyHint>& hints) const;

private:
    std::vector<Command> table_;
    std::vector<QAction*> actions_;
};

} // namespace yokai
