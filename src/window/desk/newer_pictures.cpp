#include "desk/newer_pictures.h"

#include "formats/artwork_file.h"
#include "job/replace.h"
#include "words.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <QPointer>
#include <QThreadPool>

namespace yokai {

namespace {

void remember(std::vector<Picture>& versions, const Picture& picture)
{
    if (std::none_of(versions.begin(), versions.end(), [&](const Picture& p) { return p.digest == picture.digest; }))
        versions.push_back(picture);
}

} // namespace

NewerPictures::NewerPictures(Desk& desk, QObject* parent) : QObject(parent), desk_(desk)
{
    connect(&watcher_, &QFileSystemWatcher::fileChanged, this, [this](const QString& path) {
        constexpr int settled = 500; // ms: programs write a file in several goes, or put another in its place
        QTimer::singleShot(settled, this, [this, path] { look(path); });
    });
}

void NewerPictures::cameFrom(const QString& path, const Picture& picture)
{
    remember(from_[path], picture);
    watcher_.addPath(path);
}

bool NewerPictures::isUsed(const Picture& picture) const
{
    const auto& pieces = desk_.history().job().pieces;
    return std::any_of(pieces.begin(), pieces.end(), [&](const Piece& p) { return p.artwork.picture.digest == picture.digest; });
}

void NewerPictures::look(const QString& path)
{
    const auto known = from_.find(path);
    if (known == from_.end() || !QFileInfo::exists(path))
        return;
    watcher_.addPath(path); // one that took its place is another file
    QThreadPool::globalInstance()->start([here = QPointer(this), path, versions = known->second] {
        Picture newer;
        try {
            newer = openArtwork(path.toStdString()).picture;
            if (std::all_of(versions.begin(), versions.end(), [&](const Picture& p) { return p.digest == newer.digest; }))
                return;
            decodePicture(newer); // whole, not half written
        } catch (const Error&) {
            return; // it may be written on; there will be another change
        }
        QMetaObject::invokeMethod(
            qApp,
            [here, path, versions, newer] {
                if (!here)
                    return;
                for (const Picture& old : versions)
                    if (old.digest != newer.digest && here->isUsed(old))
                        emit here->offered(QFileInfo(path).fileName(), old, newer);
            },
            Qt::QueuedConnection);
    });
}

void NewerPictures::take(const Picture& old, const Picture& newer)
{
    desk_.edit(tr("a newer %1").arg(text(newer.fileName)), [&](Job& job) {
        for (Piece& piece : job.pieces)
            if (piece.artwork.picture.digest == old.digest)
                replacePicture(piece, newer);
    });
    for (auto& [path, versions] : from_)
        if (std::any_of(versions.begin(), versions.end(), [&](const Picture& p) { return p.digest == old.digest; }))
            remember(versions, newer);
}

} // namespace yokai
