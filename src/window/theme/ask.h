// A question with answers that say what they do.
#pragma once

#include <QMessageBox>

#include <vector>

namespace yokai::theme {

struct Answer {
    QString text;
    QMessageBox::ButtonRole role;
};

// Which of them was pressed: `first` by Enter, `back` by Escape. `id` names the question for those who look for it.
int ask(QWidget* over, const char* id, const QString& title, const QString& text, const std::vector<Answer>& answers, int first, int back, const QPixmap& picture = {});

} // namespace yokai::theme
