#include "device/scanner.h"

#include "base/error.h"
#include "device/programs.h"

#include <nlohmann/json.hpp>

#include <QProcess>
#include <QTemporaryDir>

namespace yokai {

namespace {

using Json = nlohmann::json;

// The last line of what it says; what it says of how far it is goes to `work`.
Json asked(const QStringList& arguments, const Work& work)
{
    const auto ended = [](const std::string& why) { return Error(ErrorKind::Device, "the scanner gives no answer: {}; see that it is on and connected, and try again", why); };
    QProcess there;
    there.setProcessChannelMode(QProcess::SeparateChannels);
    there.start(programBeside(QStringLiteral("yokai-scan")), arguments);
    if (!there.waitForStarted())
        throw Error(ErrorKind::Device, "the program 'yokai-scan' does not start; install it beside Yokai");
    Json last;
    QByteArray rest;
    const auto read = [&] {
        rest += there.readAllStandardOutput();
        for (qsizetype end = rest.indexOf('\n'); end >= 0; end = rest.indexOf('\n')) {
            last = Json::parse(rest.left(end).toStdString(), nullptr, false);
            rest.remove(0, end + 1);
            if (last.is_object() && last.contains("done") && last["done"].is_number())
                work.report(last["done"].get<double>(), "scanning");
        }
    };
    try {
        constexpr int look = 20; // ms
        while (!there.waitForFinished(look)) {
            read();
            work.check();
        }
    } catch (...) {
        // It puts the scanner back by itself; one that does not is ended.
        constexpr int patience = 2'000; // ms
        there.closeWriteChannel();
        if (!there.waitForFinished(patience)) {
            there.kill();
            there.waitForFinished();
        }
        throw;
    }
    read();
    if (last.is_object() && last.contains("error") && last["error"].is_string())
        throw Error(ErrorKind::Device, "{}", last["error"].get<std::string>());
    if (there.exitStatus() != QProcess::NormalExit || there.exitCode() != 0 || last.is_discarded() || last.is_null())
        throw ended(there.exitStatus() == QProcess::NormalExit ? "it ended" : "its driver broke down");
    return last;
}

} // namespace

std::vector<ScannerFound> scanners(const Work& work)
{
    std::vector<ScannerFound> out;
    for (const Json& one : asked({QStringLiteral("list")}, work))
        out.push_back({one.at(0).get<std::string>(), one.at(1).get<std::string>()});
    return out;
}

ScannerFacts factsOf(const std::string& name, const Work& work)
{
    const Json said = asked({QStringLiteral("facts"), QString::fromStdString(name)}, work);
    ScannerFacts out;
    out.width = said.at("width").get<double>();
    out.height = said.at("height").get<double>();
    out.ppis = said.at("ppis").get<std::vector<double>>();
    out.least = said.at("least").get<double>();
    out.most = said.at("most").get<double>();
    out.colour = said.at("colour").get<bool>();
    out.grey = said.at("grey").get<bool>();
    return out;
}

Picture scanned(const ScanOrder& order, const Work& work)
{
    const QTemporaryDir folder;
    if (!folder.isValid())
        throw Error(ErrorKind::Output, "no temporary file can be made for the scan; make room on the disk");
    const QString file = folder.filePath(QStringLiteral("scan.png"));
    const Rect area = order.area.empty() ? Rect{0, 0, 0, 0} : order.area;
    const auto number = [](double v) { return QString::number(v, 'f', 4); };
    asked({QStringLiteral("scan"), QString::fromStdString(order.scanner), number(order.ppi), order.colour ? QStringLiteral("colour") : QStringLiteral("grey"), number(area.x0), number(area.y0),
           number(area.x1), number(area.y1), file},
          work);
    return pictureFromBytes(readFile(file.toStdString()), "scan.png");
}

} // namespace yokai
