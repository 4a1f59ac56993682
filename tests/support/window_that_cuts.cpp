// The window with a job under way on a machine, until it is told to end, as yokai itself is: PICTURE PORT [z].

#include "squares_to_cut.h"

#include "desk/machining.h"
#include "ending.h"
#include "main_window.h"
#include "theme/theme.h"

#include <QApplication>
#include <QPushButton>
#include <QStandardPaths>
#include <QTest>

#include <iostream>

int main(int argc, char** argv)
{
    using namespace yokai;
    QApplication app(argc, argv);
    QStandardPaths::setTestModeEnabled(true);
    QApplication::setOrganizationName(QStringLiteral("yokai-window-that-cuts"));
    theme::install(app);
    MainWindow window;
    Ending ending;
    QObject::connect(&ending, &Ending::told, &window, &MainWindow::endNow);
    window.show();
    window.files().open({argv[1]});
    Desk& desk = window.desk();
    const auto ready = [&] { return desk.shown() && desk.upToDate() && !desk.busy() && !desk.machining().busy() && !desk.shown()->nesting; };
    if (!QTest::qWaitFor(ready, 60'000))
        return 3;
    desk.edit("machine", [&](Job& job) {
        job.cut.plan.machine = test::machineToCut(argc > 3);
        job.cut.useFit = false;
        job.pieces[0].copies = 12;
    });
    desk.setStation(Station::Cut);
    desk.machining().setPort(QString::fromLocal8Bit(argv[2]));
    auto* cut = window.findChild<QPushButton*>("cut-run");
    if (!QTest::qWaitFor([&] { return ready() && cut->isEnabled(); }, 60'000))
        return 4;
    cut->click();
    if (!QTest::qWaitFor([&] { return desk.machining().onBed().under && desk.machining().onBed().under->runs > 0; }, 60'000))
        return 5;
    std::cout << "cutting" << std::endl;
    return QApplication::exec();
}
