#include "theme/ask.h"

#include "theme/theme.h"

#include <QBoxLayout>
#include <QDialog>
#include <QLabel>
#include <QPushButton>

#include <vector>

namespace yokai::theme {

namespace {

class Question : public QDialog {
public:
    Question(QWidget* over, const QString& text, const QStringList& answers, int first, int back, const QPixmap& picture) : QDialog(over), answer_(back)
    {
        auto* all = new QVBoxLayout(this);
        all->setContentsMargins(px(16), px(16), px(16), px(14));
        all->setSpacing(px(16));
        auto* said = new QHBoxLayout;
        said->setSpacing(px(14));
        all->addLayout(said);
        if (!picture.isNull()) {
            auto* shown = new QLabel(this);
            shown->setPixmap(picture);
            said->addWidget(shown, 0, Qt::AlignTop);
        }
        auto* words = new QLabel(text, this);
        words->setWordWrap(true);
        words->setMinimumWidth(px(300));
        said->addWidget(words, 1);
        std::vector<QPushButton*> buttons;
        int wide = 0;
        for (int k = 0; k < answers.size(); ++k) {
            auto* button = new QPushButton(answers[k], this);
            button->setAutoDefault(false);
            connect(button, &QPushButton::clicked, this, [this, k] {
                answer_ = k;
                accept();
            });
            if (k == first) {
                button->setProperty("kind", "primary");
                button->setDefault(true);
                button->setFocus();
            }
            wide += button->sizeHint().width() + px(8);
            buttons.push_back(button);
        }
        const bool beside = wide <= px(440);
        auto* row = new QBoxLayout(beside ? QBoxLayout::LeftToRight : QBoxLayout::TopToBottom);
        row->setSpacing(px(8));
        all->addLayout(row);
        if (beside)
            row->addStretch();
        for (QPushButton* button : buttons)
            row->addWidget(button);
        layout()->setSizeConstraint(QLayout::SetFixedSize);
    }
    int answer() const { return answer_; }

private:
    int answer_;
};

} // namespace

int ask(QWidget* over, const char* id, const QString& title, const QString& text, const QStringList& answers, int first, int back, const QPixmap& picture)
{
    Question question(over, text, answers, first, back, picture);
    question.setObjectName(QLatin1String(id));
    question.setWindowTitle(title);
    question.exec();
    return question.answer();
}

} // namespace yokai::theme
