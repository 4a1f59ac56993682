// Watches the files that pictures of the job came from: where one is written anew, its newer picture is offered in the
// old one's place.
#pragma once

#include "desk/desk.h"

#include <QFileSystemWatcher>
#include <QTimer>

#include <map>

namespace yokai {

class NewerPictures : public QObject {
    Q_OBJECT
public:
    explicit NewerPictures(Desk& desk, QObject* parent = nullptr);
    void cameFrom(const QString& path, const Picture& picture);
    // In every piece that had the old one, as one step.
    void take(const Picture& old, const Picture& newer);
    bool isUsed(const Picture& picture) const;

signals:
    void offered(QString fileName, yokai::Picture old, yokai::Picture newer);

private:
    void look(const QString& path);
    Desk& desk_;
    QFileSystemWatcher watcher_;
    std::map<QString, std::vector<Picture>> from_; // by path: every version that was opened or taken, as undo brings each back
};

} // namespace yokai
