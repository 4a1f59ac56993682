#include "desk/recovery.h"

#include "formats/project/project.h"
#include "words.h"

#include <QDateTime>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QJsonDocument>
#include <QJsonObject>
#include <QLocale>
#include <QSaveFile>
#include <QStandardPaths>
#include <QUuid>

namespace yokai {

namespace {

QString root() { return QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/left"); }
QString lockOf(const QString& folder) { return folder + QStringLiteral("/lock"); }

std::unique_ptr<QLockFile> lockFor(const QString& folder)
{
    auto lock = std::make_unique<QLockFile>(lockOf(folder));
    lock->setStaleLockTime(0); // only by whether its process lives
    return lock;
}

void save(const QString& path, const QByteArray& bytes)
{
    QSaveFile file(path);
    if (file.open(QIODevice::WriteOnly) && file.write(bytes) == bytes.size())
        file.commit();
}

} // namespace

Recovery::Recovery(Desk& desk, QObject* parent) : QObject(parent), desk_(desk)
{
    timer_.setSingleShot(true);
    connect(&timer_, &QTimer::timeout, this, &Recovery::keep);
    connect(&desk_, &Desk::jobChanged, this, [this] {
        if (!desk_.modified())
            clear();
        else if (!timer_.isActive())
            timer_.start(seconds * 1000);
    });
}

Recovery::~Recovery()
{
    if (thread_.joinable())
        thread_.join();
    writing_ = false;
    if (!leaves_)
        clear();
}

void Recovery::leave()
{
    if (!desk_.modified())
        return;
    if (thread_.joinable())
        thread_.join();
    writing_ = false;
    keep();
    if (thread_.joinable())
        thread_.join();
    timer_.stop();
    leaves_ = true;
}

bool Recovery::lock(const QString& folder)
{
    if (!QDir().mkpath(folder))
        return false;
    auto lock = lockFor(folder);
    if (!lock->tryLock())
        return false;
    lock_ = std::move(lock);
    folder_ = folder;
    return true;
}

void Recovery::keep()
{
    if (!desk_.modified() || kept_ == desk_.history().revision())
        return;
    if (writing_) { // the one before is not done
        timer_.start(1000);
        return;
    }
    if (folder_.isEmpty() && !lock(root() + QLatin1Char('/') + QUuid::createUuid().toString(QUuid::WithoutBraces))) {
        if (!std::exchange(said_, true))
            desk_.say(tr("Work cannot be kept between saves in '%1'; save often.").arg(root()), Severity::Warning);
        return;
    }
    kept_ = desk_.history().revision();
    QJsonObject about{{"name", text(desk_.history().job().name)}, {"path", desk_.path()}, {"when", QDateTime::currentDateTime().toString(Qt::ISODate)}};
    const QImage picture = desk_.shown() ? together(desk_.shown()->pictures) : QImage();
    writing_ = true;
    if (thread_.joinable())
        thread_.join();
    thread_ = std::jthread([this, job = desk_.history().job(), about, picture, folder = folder_] {
        QString trouble;
        try {
            keepWork(job, folder.toStdString());
            save(folder + QStringLiteral("/about.json"), QJsonDocument(about).toJson());
            if (!picture.isNull())
                picture.save(folder + QStringLiteral("/picture.png"));
        } catch (const Error& e) {
            trouble = words(e);
        } catch (const std::exception& e) {
            trouble = QString::fromUtf8(e.what());
        }
        QMetaObject::invokeMethod(
            this,
            [this, trouble] {
                writing_ = false;
                if (trouble.isEmpty()) {
                    said_ = false;
                } else {
                    kept_ = 0; // it is tried again after the next change
                    if (!std::exchange(said_, true))
                        desk_.say(tr("Work cannot be kept between saves: %1").arg(trouble), Severity::Warning);
                }
                if (!desk_.modified())
                    clear();
            },
            Qt::QueuedConnection);
    });
}

void Recovery::clear()
{
    timer_.stop();
    if (writing_ || folder_.isEmpty())
        return;
    lock_.reset();
    QDir(folder_).removeRecursively();
    folder_.clear();
    kept_ = 0;
}

std::vector<LeftWork> Recovery::left()
{
    std::vector<LeftWork> out;
    for (const QFileInfo& folder : QDir(root()).entryInfoList(QDir::Dirs | QDir::NoDotAndDotDot, QDir::Time)) {
        const QString path = folder.absoluteFilePath();
        if (const auto lock = lockFor(path); !lock->tryLock())
            continue; // a window is at it
        if (!QFileInfo::exists(path + QStringLiteral("/job.json"))) {
            QDir(path).removeRecursively(); // nothing came to be kept
            continue;
        }
        LeftWork work;
        work.folder = path;
        QFile about(path + QStringLiteral("/about.json"));
        const QJsonObject said = about.open(QIODevice::ReadOnly) ? QJsonDocument::fromJson(about.readAll()).object() : QJsonObject();
        work.name = said["name"].toString();
        work.path = said["path"].toString();
        const QFileInfo job(path + QStringLiteral("/job.json"));
        work.when = QLocale().toString(job.lastModified(), QLocale::ShortFormat);
        work.picture = QImage(path + QStringLiteral("/picture.png"));
        out.push_back(work);
    }
    std::sort(out.begin(), out.end(), [](const LeftWork& a, const LeftWork& b) {
        return QFileInfo(a.folder + QStringLiteral("/job.json")).lastModified() > QFileInfo(b.folder + QStringLiteral("/job.json")).lastModified();
    });
    return out;
}

void Recovery::takeUp(const LeftWork& work)
{
    auto job = std::make_shared<Job>();
    desk_.background().start(
        tr("Opening"),
        [job, work](const Work&) -> QString {
            *job = openWork(work.folder.toStdString());
            return {};
        },
        [this, job, work] {
            clear();
            desk_.start(std::move(*job), work.path);
            lock(work.folder);
            kept_ = desk_.history().revision();
            desk_.wasSaved(work.path, Revision{}); // it was not
        });
}

void Recovery::drop(const LeftWork& work)
{
    QDir(work.folder).removeRecursively();
}

} // namespace yokai
