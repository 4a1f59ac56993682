// yokai-standin: a printer, a bed with a sensor and a camera, and a cutter, all
// simulated, behind a serial line. It prints the line's name and serves it until
// its standard input is closed.

#include "bed.h"
#include "link.h"
#include "protocol.h"

#include "base/error.h"

#include <csignal>
#include <iostream>
#include <string_view>
#include <thread>
#include <unistd.h>

int main(int argc, char** argv)
{
    const std::string_view option = argc > 1 ? argv[1] : "";
    if (option == "--version") {
        std::cout << "yokai-standin " YOKAI_VERSION "\n";
        return 0;
    }
    if (!option.empty()) {
        std::cout << "yokai-standin [--help] [--version]\n\n"
                     "A simulated cutter for trying a cut without material. Prints the name of its serial line, then serves it until standard input ends.\n";
        return option == "--help" ? 0 : 2;
    }
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
