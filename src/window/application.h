// The program's one place that catches what a handler of an event throws: it is said, and the job lives on. Without it the toolkit ends
// the program.
#pragma once

#include <QApplication>
#include <QElapsedTimer>

namespace yokai {

class Application : public QApplication {
    Q_OBJECT
public:
    Application(int& argc, char** argv);
    bool notify(QObject* receiver, QEvent* event) override;

signals:
    void failed(QString words);

private:
    QString said_;
    QElapsedTimer since_;
};

} // namespace yokai
