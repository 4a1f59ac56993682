#include "desk/recent_jobs.h"

#include <QCryptographicHash>
#include <QDir>
#include <QFileInfo>
#include <QSettings>
#include <QStandardPaths>

namespace yokai {

namespace {

constexpr int most = 8;

QString folder() { return QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/recent/"); }
QString pictureOf(const QString& path)
{
    return folder() + QString::fromLatin1(QCryptographicHash::hash(path.toUtf8(), QCryptographicHash::Sha1).toHex()) + QStringLiteral(".png");
}

} // namespace

std::vector<RecentJob> recentJobs()
{
    std::vector<RecentJob> out;
    QSettings settings;
    const int count = settings.beginReadArray(QStringLiteral("recent"));
    for (int k = 0; k < count; ++k) {
        settings.setArrayIndex(k);
        const QString path = settings.value("path").toString();
        if (QFileInfo::exists(path))
            out.push_back({path, settings.value("name").toString(), QImage(pictureOf(path))});
    }
    return out;
}

void noteRecent(const RecentJob& job)
{
    std::vector<RecentJob> all = recentJobs();
    std::erase_if(all, [&](const RecentJob& other) { return other.path == job.path; });
    all.insert(all.begin(), job);
    while (all.size() > most) {
        QFile::remove(pictureOf(all.back().path));
        all.pop_back();
    }
    QSettings settings;
    settings.beginWriteArray(QStringLiteral("recent"), int(all.size()));
    for (int k = 0; k < int(all.size()); ++k) {
        settings.setArrayIndex(k);
        settings.setValue("path", all[std::size_t(k)].path);
        settings.setValue("name", all[std::size_t(k)].name);
    }
    settings.endArray();
    if (!job.picture.isNull() && QDir().mkpath(folder()))
        job.picture.save(pictureOf(job.path));
}

} // namespace yokai
