#include "device/stand_in.h"

#include "base/error.h"

namespace yokai {

StandIn::StandIn(const QString& program, const QStringList& options)
{
    process_.start(program, options);
    bool ready = !program.isEmpty() && process_.waitForStarted(10'000);
    // The line may have come while waiting for the start; only what is not there is waited for.
    while (ready && !process_.canReadLine())
        ready = process_.waitForReadyRead(10'000);
    if (!ready)
        throw Error(ErrorKind::Device, "the stand-in 'yokai-standin' does not start; install it beside Yokai");
    const QString line = QString::fromUtf8(process_.readLine()).trimmed();
    if (!line.startsWith(QLatin1String("PORT ")))
        throw Error(ErrorKind::Device, "the stand-in gives no serial line; install it anew");
    port_ = line.mid(5);
}

StandIn::~StandIn()
{
    process_.closeWriteChannel();
    if (!process_.waitForFinished(2000))
        process_.kill();
    process_.waitForFinished(1000);
}

} // namespace yokai
