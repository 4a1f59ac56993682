#include "device/programs.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <QStandardPaths>

namespace yokai {

QString programBeside(const QString& name)
{
    const QString beside = QCoreApplication::applicationDirPath();
    for (const char* place : {"/", "/../", "/../src/", "/../../src/"})
        if (const QFileInfo there(beside + QLatin1String(place) + name); there.isExecutable() && there.isFile())
            return there.canonicalFilePath();
    const QString found = QStandardPaths::findExecutable(name);
    return found.isEmpty() ? name : found;
}

} // namespace yokai
