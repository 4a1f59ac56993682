#include "device/awake.h"

#include <QDBusConnection>
#include <QDBusMessage>
#include <QDBusReply>
#include <QDBusUnixFileDescriptor>

namespace yokai {

// Sleep is held off for as long as this descriptor is open.
struct Awake::Held {
    QDBusUnixFileDescriptor descriptor;
};

Awake::Awake(const char* why)
{
    constexpr int patienceMs = 1000; // the cut does not wait for it longer
    const QDBusConnection bus = QDBusConnection::systemBus();
    if (!bus.isConnected())
        return;
    QDBusMessage call = QDBusMessage::createMethodCall(QStringLiteral("org.freedesktop.login1"), QStringLiteral("/org/freedesktop/login1"),
                                                       QStringLiteral("org.freedesktop.login1.Manager"), QStringLiteral("Inhibit"));
    call << QStringLiteral("sleep:idle") << QStringLiteral("Yokai") << QString::fromUtf8(why) << QStringLiteral("block");
    const QDBusReply<QDBusUnixFileDescriptor> reply = bus.call(call, QDBus::Block, patienceMs);
    if (reply.isValid())
        held_ = std::make_unique<Held>(Held{reply.value()});
}

Awake::~Awake() = default;

} // namespace yokai
