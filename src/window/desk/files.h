// Bringing pictures and jobs in, and saving. All work is done in the background and says
// how it went; nothing that is not saved is replaced unasked.
#pragma once

#include "desk/desk.h"

#include <QStringList>

class QMimeData;

namespace yokai {

class Files : public QObject {
    Q_OBJECT
public:
    // `ask` is called where a job that is not saved would be replaced; it goes on, at once or
    // later, or not at all.
    using GoOn = std::function<void()>;
    Files(Desk& desk, std::function<void(GoOn)> ask, QObject* parent = nullptr) : QObject(parent), desk_(desk), ask_(std::move(ask)) {}

    void open(const QStringList& paths); // pictures are added, and those of an order list (.csv); a .yokai job replaces
    bool open(const QMimeData& data);
    static bool canOpen(const QMimeData& data);
    void save(const QString& path, GoOn after = {});
    void newJob();
    void addScan(const Picture& picture);
    void replacePicture(const QString& path); // of the piece that is looked at, which stays as it is otherwise

signals:
    void pictureOpened(QString path, yokai::Picture picture);

private:
    void read(const QStringList& paths);
    void paste(const QMimeData& data);
    void addPieces(std::vector<Piece> pieces);
    Desk& desk_;
    std::function<void(GoOn)> ask_;
};

} // namespace yokai
