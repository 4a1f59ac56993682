// Running a program to its end and reading what it said.
#pragma once

#include <QByteArray>
#include <QString>
#include <QStringList>

namespace yokai::test {

struct Ran {
    int code = -1;
    QString out, err;
    QByteArray bytes; // of out
};
Ran run(const QString& program, const QStringList& args, const QByteArray& input = {});
QByteArray read(const QString& file);
void write(const QString& file, const QByteArray& bytes);

} // namespace yokai::test
