#include "desk/recipes.h"

#include "base/file.h"
#include "formats/project/recipe_file.h"
#include "words.h"

#include <QDir>
#include <QSettings>
#include <QStandardPaths>
#include <QUrl>

namespace yokai::recipes {

namespace {

const QString forNewKey = QStringLiteral("recipes/for-new");

QDir folder() { return QDir(QStandardPaths::writableLocation(QStandardPaths::AppConfigLocation) + QStringLiteral("/recipes")); }
// Any name makes a file name.
QString fileOf(const QString& name) { return folder().filePath(QString::fromLatin1(QUrl::toPercentEncoding(name, " ", ".")) + QStringLiteral(".json")); }

} // namespace

QStringList names()
{
    QStringList out;
    for (const QString& file : folder().entryList({QStringLiteral("*.json")}, QDir::Files, QDir::Name))
        out << QUrl::fromPercentEncoding(file.chopped(5).toLatin1());
    return out;
}

std::optional<Recipe> named(const QString& name)
{
    if (!QFile::exists(fileOf(name)))
        return std::nullopt;
    try {
        return openRecipe(fileOf(name).toStdString());
    } catch (const Error&) {
        return std::nullopt;
    }
}

void keep(const Recipe& recipe)
{
    folder().mkpath(QStringLiteral("."));
    writeFile(fileOf(text(recipe.name)).toStdString(), writeRecipe(recipe));
}

void remove(const QString& name)
{
    QFile::remove(fileOf(name));
    if (forNew() == name)
        setForNew({});
}

QString forNew() { return QSettings().value(forNewKey).toString(); }
void setForNew(const QString& name) { QSettings().setValue(forNewKey, name); }

} // namespace yokai::recipes
