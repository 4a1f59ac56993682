// Cuts twenty squares on a machine, keeping how far it is as the window does, until it has ended or is killed: PORT FOLDER [z].

#include "squares_to_cut.h"

#include "device/left_cut.h"

#include <QCoreApplication>

#include <iostream>

int main(int argc, char** argv)
{
    using namespace yokai;
    const QCoreApplication application(argc, argv);
    Machine machine = test::machineToCut(argc > 3);
    machine.link.port = argv[1];
    const Program program = programOf(test::squaresToCut(machine));
    keepCut(argv[2], {"squares", machine, program, 0});
    CutControl control;
    CutRun(machine.link, program, recordIn(argv[2])).start(control, {}, {});
    std::cout << "done\n";
    return 0;
}
