#include "theme/ask.h"

#include <QPushButton>

namespace yokai::theme {

int ask(QWidget* over, const char* id, const QString& title, const QString& text, const std::vector<Answer>& answers, int first, int back, const QPixmap& picture)
{
    QMessageBox box(QMessageBox::Question, title, text, QMessageBox::NoButton, over);
    box.setObjectName(QLatin1String(id));
    if (!picture.isNull())
        box.setIconPixmap(picture);
    std::vector<QAbstractButton*> buttons;
    for (const Answer& answer : answers)
        buttons.push_back(box.addButton(answer.text, answer.role));
    box.setDefaultButton(qobject_cast<QPushButton*>(buttons[std::size_t(first)]));
    box.setEscapeButton(buttons[std::size_t(back)]);
    box.exec();
    for (std::size_t k = 0; k < buttons.size(); ++k)
        if (box.clickedButton() == buttons[k])
            return int(k);
    return back;
}

} // namespace yokai::theme
