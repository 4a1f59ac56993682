#include "application.h"
#include "desk/machining.h"
#include "ending.h"
#include "main_window.h"
#include "theme/theme.h"

#include <QCommandLineParser>
#include <QTimer>

int main(int argc, char** argv)
{
    yokai::Application app(argc, argv);
    QApplication::setApplicationName(QStringLiteral("Yokai"));
    QApplication::setOrganizationName(QStringLiteral("yokai"));
    QApplication::setApplicationVersion(QStringLiteral(YOKAI_VERSION));
    QCommandLineParser parser;
    parser.setApplicationDescription(QApplication::translate("main", "From a printed picture to a cut that lands on it."));
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument(QStringLiteral("files"), QApplication::translate("main", "A .yokai job, or pictures."), QStringLiteral("[files...]"));
    parser.process(app);
    yokai::theme::install(app);
    yokai::MainWindow window;
    yokai::Ending ending;
    QObject::connect(&ending, &yokai::Ending::told, &window, &yokai::MainWindow::endNow);
    // At the end of a session the machine is stopped before anything is asked.
    QObject::connect(&app, &QGuiApplication::commitDataRequest, &window, [&] { window.desk().machining().stop(); });
    window.show();
    QTimer::singleShot(0, &window, [&] {
        window.offerMachine();
        window.offerLeftWork();
        if (!parser.positionalArguments().isEmpty())
            window.files().open(parser.positionalArguments());
    });
    return QApplication::exec();
}
