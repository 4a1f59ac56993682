// The maker's own recipes, a file each in the user's own folder.
#pragma once

#include "job/recipe.h"

#include <QStringList>

#include <optional>

namespace yokai::recipes {

QStringList names();
std::optional<Recipe> named(const QString& name); // none that can be read: nothing
void keep(const Recipe& recipe);                  // replaces one of the same name. Throws Error(Output)
void remove(const QString& name);

// Put on each new picture; empty: none.
QString forNew();
void setForNew(const QString& name);

} // namespace yokai::recipes
