// Order lists: which pictures, how many of each, how large, by which recipe.
//
// Comma-separated values after RFC 4180: a line each, fields in quotes where they hold a comma, a quote
// (doubled) or a line's end; a semicolon between fields is taken too, as spreadsheets write it where the comma is
// the decimal sign. The first line may name the columns, in any order: file, copies, width, height, recipe;
// without it they stand in this order. Only file is needed; what is left empty is as in the recipe, or as usual.
#pragma once

#include "base/error.h"
#include "base/length.h"
#include "job/recipe.h"

#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yokai {

struct OrderRow {
    int line = 0; // of the file, from 1
    std::string file;
    std::optional<int> copies; // absent: not said
    std::optional<Length> width, height;
    std::string recipe; // a file from the list's folder, or a name; empty: none
};

// Throws Error(Input), naming the line.
std::vector<OrderRow> readOrder(std::string_view csv, const std::string& name);

// The pieces of a list, pictures opened from its own folder. `recipeNamed` is asked for what is no file there; null: there are
// none. `begin` is what each piece starts from. Throws Error(Input), naming the line.
std::vector<Piece> openOrder(const std::filesystem::path& path, const std::function<std::optional<Recipe>(const std::string&)>& recipeNamed = {},
                             const std::function<void(Piece&)>& begin = {});

} // namespace yokai
