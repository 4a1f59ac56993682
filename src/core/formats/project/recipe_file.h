// A recipe's file: JSON, by the same lists of fields as a job's.
#pragma once

#include "job/recipe.h"

#include <filesystem>

namespace yokai {

Bytes writeRecipe(const Recipe& recipe);
// From such a file, or from a .yokai job: the settings of its first piece. Throws Error(Input).
Recipe openRecipe(const std::filesystem::path& path);

} // namespace yokai
