// The jobs worked on last, with a picture of each.
#pragma once

#include <QImage>
#include <QString>

#include <vector>

namespace yokai {

struct RecentJob {
    QString path, name;
    QImage picture;
};

// The newest first; only those that are still there.
std::vector<RecentJob> recentJobs();
void noteRecent(const RecentJob& job);

} // namespace yokai
