// The programs that come with this one.
#pragma once

#include <QString>

namespace yokai {

QString programBeside(const QString& name); // where it is; beside this one, or where the system looks

} // namespace yokai
