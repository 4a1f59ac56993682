// yokai-standin: a printer, a bed with an eye and a camera, and a cutter, all simulated, behind a serial line. It prints the
// line's name and serves it until its standard input is closed.

#include "device.h"
#include "link.h"

#include "base/error.h"
#include "base/file.h"
#include "formats/machine/own_files.h"

#include <atomic>
#include <charconv>
#include <csignal>
#include <iostream>
#include <memory>
#include <string_view>
#include <thread>
#include <unistd.h>

namespace {

using namespace yokai;
using namespace yokai::standin;

constexpr const char* help = "yokai-standin [OPTION=VALUE...]\n\n"
                             "A simulated cutter for trying a cut without material. Prints the name of its serial line, then serves it until standard input ends.\n\n"
                             "  --machine=FILE.json|NAME  the machine it is: bed, motion, blade, eye\n"
                             "  --link=NAME               a name for the line that stays the same when it is lost and comes back\n"
                             "  --sheet=FILE.pdf          the print on its bed\n"
                             "  --lines=FILE.svg|dxf      the cut lines as designed: the report then says how far each cut is from them\n"
                             "  --askew=SX,SY,TURN,SKEW,X,Y[,SWELL]  stretch both ways, degrees, mm: how it lies\n"
                             "  --cover=X,Y               something white lies on this place of the sheet; again for more\n"
                             "  --offset=X,Y              where its own zero lies from where programs count, as after homing to a far corner\n"
                             "  --eye=MM                  how far one reading strays (0.03)\n"
                             "  --light=UNEVEN,NOISE      of the camera, 0..1 and 0..255\n"
                             "  --seed=N                  of all that strays\n"
                             "  --pace=N                  times as fast as life; 0: as fast as can be (0)\n"
                             "  --report=FILE.json        what it did, and where every cut lies on the bed and on the sheet: written at its end\n"
                             "  --picture=FILE.png        the cut sheet, written at its end\n"
                             "  --fault=KIND@LINE[:X[,Y]] link, garble, stall, slip or anew (switched off and on) after so many lines; X: seconds, or mm with Y; again for more\n"
                             "  --help, --version\n";

std::vector<double> figures(const std::string& text)
{
    std::vector<double> out;
    for (std::size_t i = 0; i <= text.size();) {
        const std::size_t end = std::min(text.find(',', i), text.size());
        double v = 0;
        if (const auto [stop, error] = std::from_chars(text.data() + i, text.data() + end, v); error != std::errc() || stop != text.data() + end)
            throw Error(ErrorKind::Usage, "'{}' is not made of numbers with commas between", text);
        out.push_back(v);
        i = end + 1;
    }
    return out;
}

Fault faultOf(const std::string& text)
{
    static const std::pair<const char*, FaultKind> kinds[] = {{"link", FaultKind::Link}, {"garble", FaultKind::Garble}, {"stall", FaultKind::Stall}, {"slip", FaultKind::Slip}, {"anew", FaultKind::Anew}};
    const std::size_t at = text.find('@'), colon = text.find(':');
    for (const auto& [name, kind] : kinds)
        if (at != std::string::npos && text.substr(0, at) == name) {
            Fault fault{kind, std::size_t(figures(text.substr(at + 1, colon == std::string::npos ? colon : colon - at - 1)).front())};
            if (colon != std::string::npos) {
                const auto v = figures(text.substr(colon + 1));
                fault.x = v[0];
                fault.y = v.size() > 1 ? v[1] : 0;
            }
            return fault;
        }
    throw Error(ErrorKind::Usage, "'{}' is no fault; write link, garble, stall, slip or anew, as slip@300:0.5,0", text);
}

struct Setting {
    DeviceSpec device;
    std::string link, sheet, report, picture, lines;
    ToolSpec tool;
};

Setting setUp(int argc, char** argv, Bed& bed)
{
    Setting out;
    for (int i = 1; i < argc; ++i) {
        const std::string option = argv[i];
        const std::size_t equals = option.find('=');
        const std::string name = option.substr(0, equals), value = equals == std::string::npos ? std::string() : option.substr(equals + 1);
        if (name == "--machine") {
            const Machine m = machineNamed(value, ownFolder());
            DeviceSpec& d = out.device;
            d.dialect = m.dialect;
            d.forceMost = m.tool.forceMost;
            d.bedWidth = m.bed.width.mm();
            d.bedDepth = m.bed.depth.mm();
            d.toBed = m.bed.toMachine().inverse();
            d.limits = {m.motion.acceleration, m.motion.cornerDeviation.mm(), m.motion.topSpeed.mmPerSecond()};
            d.byHeight = m.dialect == Dialect::Gcode && m.tool.by == ToolBy::Height;
            d.up = m.tool.up.mm();
            d.down = m.tool.down.mm();
            d.toolSeconds = m.motion.toolSeconds;
            d.bladeOffset = m.tool.bladeOffset.mm();
            d.powerMost = m.tool.powerMost;
            d.beam = m.tool.beam.mm();
            d.eyeX = m.eye.x.mm();
            d.eyeY = m.eye.y.mm();
            out.tool = m.tool;
        } else if (name == "--lines")
            out.lines = value;
        else if (name == "--link")
            out.link = value;
        else if (name == "--sheet")
            out.sheet = value;
        else if (name == "--report")
            out.report = value;
        else if (name == "--picture")
            out.picture = value;
        else if (name == "--askew") {
            const auto v = figures(value);
            if (v.size() < 6)
                throw Error(ErrorKind::Usage, "--askew '{}' has too few numbers; see --help", value);
            bed.setAskew({v[0], v[1], v[2], v[3], v[4], v[5], v.size() > 6 ? v[6] : 0});
        } else if (name == "--cover") {
            const auto v = figures(value);
            bed.cover({v[0], v.size() > 1 ? v[1] : 0});
        } else if (name == "--offset") {
            const auto v = figures(value);
            out.device.offset = {v[0], v.size() > 1 ? v[1] : 0};
        } else if (name == "--eye")
            bed.setReading(figures(value).front());
        else if (name == "--light") {
            const auto v = figures(value);
            bed.setUneven(v[0], v.size() > 1 ? v[1] : 0);
        } else if (name == "--seed")
            bed.setSeed(unsigned(figures(value).front()));
        else if (name == "--pace")
            out.device.pace = figures(value).front();
        else if (name == "--fault")
            out.device.faults.push_back(faultOf(value));
        else
            throw Error(ErrorKind::Usage, "'{}' is no option; see --help", option);
    }
    return out;
}

} // namespace

int main(int argc, char** argv)
{
    for (int i = 1; i < argc; ++i) {
        if (std::string_view(argv[i]) == "--version") {
            std::cout << "yokai-standin " YOKAI_VERSION "\n";
            return 0;
        }
        if (std::string_view(argv[i]) == "--help") {
            std::cout << help;
            return 0;
        }
    }
    std::signal(SIGPIPE, SIG_IGN);
    try {
        Bed bed;
        const Setting setting = setUp(argc, argv, bed);
        if (!setting.sheet.empty())
            bed.print(setting.sheet);
        std::optional<Lines> lines;
        if (!setting.lines.empty())
            lines.emplace(setting.lines, setting.tool);
        Link link(setting.link);
        std::cout << "PORT " << link.port() << std::endl;
        // Whoever started us holds our standard input; when it is gone, so are we.
        const auto over = std::make_shared<std::atomic<bool>>(false);
        std::thread([over] {
            char c;
            while (::read(STDIN_FILENO, &c, 1) > 0) {
            }
            *over = true;
        }).detach();
        const auto device = deviceOf(setting.device, bed, link);
        device->serve(*over);
        if (!setting.report.empty())
            writeFile(setting.report, device->report(lines ? &*lines : nullptr));
        if (!setting.picture.empty())
            writeFile(setting.picture, device->picture());
        if (!setting.link.empty())
            ::unlink(setting.link.c_str());
    } catch (const Error& e) {
        std::cerr << "yokai-standin: " << e.what() << "\n";
        return e.kind() == ErrorKind::Usage ? 2 : 1;
    }
    return 0;
}
