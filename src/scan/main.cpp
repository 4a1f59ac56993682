// yokai-scan: asks scanners, and scans. It answers in lines of JSON; it stops when its standard input is closed.
//
//   yokai-scan list                                   [["name", "title"], ...]
//   yokai-scan facts NAME                             {"width": mm, "height": mm, "ppis": [...], "least": ppi, "most": ppi, "colour": bool, "grey": bool}
//   yokai-scan scan NAME PPI colour|grey X0 Y0 X1 Y1 FILE.png   {"done": 0..1} again and again, then {"ppi": ppi}; no area (X1 not over X0): all of the glass
//
// What cannot be done is {"error": "why"}, and ends it with 1.

#include "sane_scanner.h"

#include "artwork/artwork.h"
#include "base/error.h"

#include <nlohmann/json.hpp>

#include <csignal>
#include <cstdlib>
#include <iostream>
#include <string>
#include <thread>
#include <unistd.h>

namespace {

using namespace yokai;
using Json = nlohmann::json;

void say(const Json& line) { std::cout << line.dump(-1, ' ', false, Json::error_handler_t::replace) << std::endl; }

void scanTo(char** v)
{
    std::stop_source stop;
    std::thread([stop]() mutable {
        char one = 0;
        while (::read(STDIN_FILENO, &one, 1) > 0) {
        }
        stop.request_stop();
    }).detach();
    const ScanOrder order{v[2], std::atof(v[3]), {std::atof(v[5]), std::atof(v[6]), std::atof(v[7]), std::atof(v[8])}, std::string(v[4]) == "colour"};
    double told = 0;
    const Work work{stop.get_token(), [&told](double done, std::string_view) {
                        constexpr double step = 0.01;
                        if (done >= told + step)
                            say({{"done", told = done}});
                    }};
    const Scanned scanned = scan(order, work);
    writeFile(v[9], encodePng(scanned.pixels, {stop.get_token(), {}}, scanned.ppi));
    say({{"ppi", scanned.ppi}});
}

int run(int count, char** v)
{
    const std::string verb = count > 1 ? v[1] : "";
    if (verb == "list" && count == 2) {
        Json out = Json::array();
        for (const ScannerFound& s : scanners())
            out.push_back({s.name, s.title});
        say(out);
    } else if (verb == "facts" && count == 3) {
        const ScannerFacts f = factsOf(v[2]);
        say({{"width", f.width}, {"height", f.height}, {"ppis", f.ppis}, {"least", f.least}, {"most", f.most}, {"colour", f.colour}, {"grey", f.grey}});
    } else if (verb == "scan" && count == 10) {
        scanTo(v);
    } else {
        std::cerr << "yokai-scan list | facts NAME | scan NAME PPI colour|grey X0 Y0 X1 Y1 FILE.png\n";
        return 2;
    }
    return 0;
}

} // namespace

int main(int count, char** values)
{
    try {
        // At once: a backend's own threads and ends are not waited for.
        const int code = run(count, values);
        std::cout.flush();
        std::_Exit(code);
    } catch (const Cancelled&) {
        std::_Exit(1);
    } catch (const std::exception& e) {
        say({{"error", e.what()}});
        std::_Exit(1);
    }
}
