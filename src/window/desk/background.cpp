#include "desk/background.h"

#include "words.h"

#include <QThread>

namespace yokai {

Background::Background(QObject* parent) : QObject(parent) {}

Background::~Background()
{
    stop_.request_stop();
    if (!thread_)
        return;
    QMetaObject::invokeMethod(
        runner_.get(),
        [this] {
            if (last_)
                last_();
            thread_->quit();
        },
        Qt::QueuedConnection);
    thread_->wait();
}

bool Background::start(const QString& what, std::function<QString(const Work&)> task, std::function<void()> after)
{
    if (busy_) {
        emit said(tr("Something else is still under way; wait for it or stop it."), int(Severity::Warning));
        return false;
    }
    if (!thread_) {
        thread_ = std::make_unique<QThread>();
        runner_ = std::make_unique<QObject>();
        runner_->moveToThread(thread_.get());
        thread_->start();
    }
    busy_ = true;
    stop_ = std::stop_source();
    Work work;
    work.stop = stop_.get_token();
    work.progress = [this, what](double fraction, std::string_view step) {
        const QString text = what + QStringLiteral(" \u00b7 ") + QString::fromUtf8(step.data(), qsizetype(step.size()));
        QMetaObject::invokeMethod(this, [this, fraction, text] {
            if (busy_)
                emit progressed(fraction, text);
        });
    };
    emit changed();
    emit progressed(0, what);
    const auto run = [this, what, work, task = std::move(task), after = std::move(after)] {
        QString text;
        Severity severity = Severity::Note;
        bool done = false;
        try {
            try {
                text = task(work);
                done = true;
            } catch (...) {
                rethrowAsError(ErrorKind::Output, what.toStdString());
            }
        } catch (const Cancelled&) {
            text = tr("Stopped; nothing was changed.");
        } catch (const Error& e) {
            text = words(e);
            severity = Severity::Error;
        }
        QMetaObject::invokeMethod(this, [this, text, severity, done, after] {
            busy_ = false;
            emit progressed(-1, {});
            if (done && after)
                after();
            if (!text.isEmpty())
                emit said(text, int(severity));
            emit changed();
        });
    };
    QMetaObject::invokeMethod(runner_.get(), run, Qt::QueuedConnection);
    return true;
}

} // namespace yokai
