#include "application.h"

#include "base/error.h"
#include "words.h"

namespace yokai {

Application::Application(int& argc, char** argv) : QApplication(argc, argv) {}

bool Application::notify(QObject* receiver, QEvent* event)
{
    try {
        try {
            return QApplication::notify(receiver, event);
        } catch (...) {
            rethrowAsError(ErrorKind::Usage, "the last step");
        }
    } catch (const Error& e) {
        const QString said = words(e);
        constexpr int again = 5000; // ms: what is drawn over and over fails over and over
        if (said == said_ && since_.elapsed() < again)
            return true;
        said_ = said;
        since_.start();
        qWarning("a handler failed: %s", e.what());
        // Later: what failed may be the drawing of what would say it.
        QMetaObject::invokeMethod(this, [this, said] { emit failed(said); }, Qt::QueuedConnection);
    } catch (const Cancelled&) { // stopped, as asked
    }
    return true;
}

} // namespace yokai
