#include "desk/files.h"

#include "desk/recipes.h"
#include "formats/artwork_file.h"
#include "formats/order/order.h"
#include "formats/project/project.h"
#include "job/replace.h"
#include "words.h"

#include <QFileInfo>
#include <QImage>
#include <QMimeData>
#include <QSettings>
#include <QUrl>

#include <cstring>

namespace yokai {

namespace {
bool isJob(const QString& path) { return path.endsWith(QLatin1String(".yokai"), Qt::CaseInsensitive); }
bool isOrder(const QString& path) { return path.endsWith(QLatin1String(".csv"), Qt::CaseInsensitive); }

// The first few, and how many more there are.
QString briefly(const QStringList& what)
{
    constexpr qsizetype most = 3;
    const QString first = what.mid(0, most).join(QStringLiteral("; "));
    return what.size() <= most ? first : Files::tr("%1; and %n more", nullptr, int(what.size() - most)).arg(first);
}

// What a new picture starts with.
void asNew(Piece& piece)
{
    if (const auto recipe = recipes::named(recipes::forNew()))
        apply(*recipe, piece, HandWork::Stays);
}
} // namespace

void Files::open(const QStringList& paths)
{
    if (std::any_of(paths.begin(), paths.end(), isJob))
        ask_([this, paths] { read(paths); });
    else
        read(paths);
}

void Files::read(const QStringList& paths)
{
    struct Opened {
        std::optional<Job> job;
        QString jobPath;
        std::vector<Piece> pieces;
        std::vector<std::pair<QString, Picture>> from;
        QStringList leftOut, failures;
    };
    auto opened = std::make_shared<Opened>();
    desk_.background().start(
        tr("Opening"),
        [paths, opened](const Work& work) -> QString {
            for (qsizetype i = 0; i < paths.size(); ++i) {
                work.report(double(i) / double(paths.size()), QFileInfo(paths[i]).fileName().toStdString());
                const std::filesystem::path path = paths[i].toStdString();
                try {
                    if (isJob(paths[i])) {
                        OpenedJob read = openWhatCanBe(path);
                        opened->job = std::move(read.job);
                        opened->jobPath = QFileInfo(paths[i]).absoluteFilePath();
                        for (const std::string& what : read.leftOut)
                            opened->leftOut << text(what);
                        continue;
                    }
                    if (isOrder(paths[i])) {
                        for (Piece& piece : openOrder(path, [](const std::string& name) { return recipes::named(QString::fromStdString(name)); }, asNew))
                            opened->pieces.push_back(std::move(piece));
                        continue;
                    }
                    Piece piece;
                    ArtworkFile read = openArtwork(path, work);
                    piece.artwork.picture = std::move(read.picture);
                    for (const std::string& what : read.leftOut)
                        opened->failures << tr("'%1' holds %2, which cannot come in.").arg(QFileInfo(paths[i]).fileName(), text(what));
                    piece.name = path.stem().string();
                    asNew(piece);
                    opened->from.emplace_back(QFileInfo(paths[i]).absoluteFilePath(), piece.artwork.picture);
                    opened->pieces.push_back(std::move(piece));
                } catch (const Error& e) {
                    opened->failures << words(e);
                }
            }
            return {};
        },
        [this, opened] {
            if (opened->job) {
                desk_.start(std::move(*opened->job), opened->leftOut.isEmpty() ? opened->jobPath : QString());
                if (!opened->leftOut.isEmpty()) { // the file is not written over with less
                    desk_.wasSaved({}, Revision{});
                    desk_.say(tr("'%1' is opened as far as it can be; save it under another name. Left out: %2")
                                  .arg(QFileInfo(opened->jobPath).fileName(), briefly(opened->leftOut)),
                              Severity::Warning);
                }
            }
            if (opened->pieces.size() == 1 && opened->pieces[0].artwork.picture.info.ppiFrom == PpiSource::Assumed)
                desk_.say(tr("'%1' says no resolution; 300 ppi is assumed. Type its true width under Artwork.")
                              .arg(text(opened->pieces[0].artwork.picture.fileName)));
            addPieces(std::move(opened->pieces));
            for (const auto& [path, picture] : opened->from)
                emit pictureOpened(path, picture);
            if (!opened->from.empty())
                QSettings().setValue("pictures", QFileInfo(opened->from.back().first).absolutePath());
            if (!opened->failures.isEmpty())
                desk_.say(opened->failures.join(QLatin1Char('\n')), Severity::Error);
        });
}

bool Files::canOpen(const QMimeData& data) { return data.hasUrls() || data.hasImage(); }

bool Files::open(const QMimeData& data)
{
    QStringList paths;
    for (const QUrl& url : data.hasUrls() ? data.urls() : QList<QUrl>())
        if (url.isLocalFile())
            paths << url.toLocalFile();
    if (!paths.isEmpty()) {
        open(paths);
        return true;
    }
    if (!data.hasImage())
        return false;
    paste(data);
    return true;
}

void Files::paste(const QMimeData& data)
{
    const QImage image = qvariant_cast<QImage>(data.imageData());
    auto pieces = std::make_shared<std::vector<Piece>>();
    desk_.background().start(
        tr("Pasting"),
        [image, pieces](const Work& work) -> QString {
            // Screens claim 96 dots an inch for every picture; that is no statement about its size.
            const QImage plain = image.convertToFormat(QImage::Format_RGBA8888);
            Rgba8 pixels(plain.width(), plain.height());
            for (int y = 0; y < plain.height(); ++y)
                std::memcpy(pixels.row(y), plain.constScanLine(y), std::size_t(plain.width()) * sizeof(Rgba));
            Piece piece;
            piece.name = tr("Pasted picture").toStdString();
            piece.artwork.picture = pictureFromBytes(encodePng(pixels, work), "pasted.png");
            pieces->push_back(std::move(piece));
            return {};
        },
        [this, pieces] {
            addPieces(std::move(*pieces));
            desk_.say(tr("Pasted at 300 ppi, since the clipboard says no size. Type its true width under Artwork."));
        });
}

void Files::addScan(const Picture& picture)
{
    Piece piece;
    piece.name = tr("Scan").toStdString();
    piece.artwork.picture = picture;
    asNew(piece);
    addPieces({piece});
}

void Files::addPieces(std::vector<Piece> pieces)
{
    if (pieces.empty())
        return;
    const int first = int(desk_.job().pieces.size());
    // The first picture shows at once what it is all about.
    const Station next = first == 0 ? Station::CutLines : onSheet(desk_.station()) ? Station::Artwork : desk_.station();
    const QString what = pieces.size() == 1 ? tr("add %1").arg(text(pieces.front().name)) : tr("add %n pictures", nullptr, int(pieces.size()));
    desk_.edit(what, [&](Job& job) {
        if (const Job unnamed; job.pieces.empty() && job.name == unnamed.name)
            job.name = pieces.front().name;
        for (Piece& p : pieces)
            job.pieces.push_back(p);
    });
    desk_.setPiece(first);
    desk_.setStation(next);
}

void Files::save(const QString& path, GoOn after)
{
    Job job = desk_.history().job();
    if (desk_.current())
        if (auto nested = nestedOf(desk_.shown()->derived))
            job.nested = std::move(nested);
    const Revision revision = desk_.history().revision();
    desk_.background().start(
        tr("Saving"),
        [job, path](const Work&) {
            saveProject(job, path.toStdString());
            return tr("Saved %1").arg(QFileInfo(path).fileName());
        },
        [this, path, revision, after] {
            desk_.wasSaved(QFileInfo(path).absoluteFilePath(), revision);
            if (after)
                after();
        });
}

void Files::replacePicture(const QString& path)
{
    const Piece* piece = desk_.currentPiece();
    if (!piece)
        return;
    auto picture = std::make_shared<Picture>();
    desk_.background().start(
        tr("Opening"),
        [path, picture](const Work& work) -> QString {
            *picture = openArtwork(path.toStdString(), work).picture;
            decodePicture(*picture, work); // one that cannot be read takes no other's place
            return {};
        },
        [this, path, picture, id = piece->id] {
            desk_.edit(tr("replace the picture"), [&](Job& job) {
                if (Piece* p = find(job, id))
                    yokai::replacePicture(*p, *picture);
            });
            emit pictureOpened(QFileInfo(path).absoluteFilePath(), *picture);
        });
}

void Files::newJob()
{
    ask_([this] { desk_.start(freshJob(), {}); });
}

} // namespace yokai
