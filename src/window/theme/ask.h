// A question with answers that say what they do.
#pragma once

#include <QPixmap>
#include <QStringList>

class QWidget;

namespace yokai::theme {

// Which of them was pressed: `first` by Enter, `back` by Escape. `id` names the question for those who look for it. Answers stand side by
// side, or one under the other where they are long.
int ask(QWidget* over, const char* id, const QString& title, const QString& text, const QStringList& answers, int first, int back, const QPixmap& picture = {});

} // namespace yokai::theme
