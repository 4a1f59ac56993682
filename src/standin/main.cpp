// yokai-standin: a printer, a bed with a sensor and a camera, and a cutter, all
// simulated, behind a serial line. It prints the line's name and serves it until
// its standard input is closed.

#include "bed.h"
#include "link.h"
#include "protocol.h"

#include "base/error.h"

#include <CLI/CLI.hpp>

#include <csignal>
#include <iostream>
#include <thread>
#include <unistd.h>

int main(int argc, char** argv)
{
    CLI::App app{"A simulated cutter for trying a cut without material. Prints the name of its serial line, then serves it until standard input ends."};
    app.set_version_flag("--version", std::string("yokai-standin ") + YOKAI_VERSION);
    CLI11_PARSE(app, argc, argv);
    std::signal(SIGPIPE, SIG_IGN);
    try {
        yokai::standin::Link link;
        std::cout << "PORT " << link.port() << std::endl;
        // Whoever started us holds our standard input; when it is gone, so are we.
        std::thread([] {
            char c;
            while (::read(STDIN_FILENO, &c, 1) > 0) {
            }
            std::_Exit(0);
        }).detach();
        yokai::standin::Bed bed;
        std::string line;
        while (link.readLine(line))
            link.write(yokai::standin::answer(bed, line));
    } catch (const yokai::Error& e) {
        std::cerr << "yokai-standin: " << e.what() << "\n";
        return 1;
    }
    return 0;
}
