#include "formats/order/order.h"

#include "base/file.h"
#include "base/text.h"
#include "formats/artwork_file.h"
#include "formats/project/recipe_file.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <map>

namespace yokai {

namespace {

constexpr std::array columns = {"file", "copies", "width", "height", "recipe"};
using Fields = std::vector<std::string>;

struct Record {
    int line = 1;
    Fields fields;
};

std::string trimmed(std::string text)
{
    const auto space = [](char c) { return c == ' ' || c == '\t' || c == '\r'; };
    while (!text.empty() && space(text.back()))
        text.pop_back();
    std::size_t first = 0;
    while (first < text.size() && space(text[first]))
        ++first;
    return text.substr(first);
}

// Which of the two parts the fields: the one more often in the first line, outside quotes.
char separatorOf(std::string_view csv)
{
    int commas = 0, semicolons = 0;
    bool quoted = false;
    for (const char c : csv) {
        if (c == '"')
            quoted = !quoted;
        if (!quoted && c == '\n')
            break;
        commas += !quoted && c == ',';
        semicolons += !quoted && c == ';';
    }
    return semicolons > commas ? ';' : ',';
}

std::vector<Record> recordsOf(std::string_view csv, const std::string& name)
{
    const char separator = separatorOf(csv);
    std::vector<Record> out;
    Record record;
    std::string field;
    bool quoted = false, wasQuoted = false;
    int line = 1;
    const auto endField = [&] {
        record.fields.push_back(wasQuoted ? field : trimmed(field));
        field.clear();
        wasQuoted = false;
    };
    const auto endRecord = [&] {
        endField();
        if (record.fields.size() > 1 || !record.fields[0].empty())
            out.push_back(record);
        record = {line + 1, {}};
    };
    for (std::size_t k = 0; k < csv.size(); ++k) {
        const char c = csv[k];
        if (quoted) {
            if (c == '"' && k + 1 < csv.size() && csv[k + 1] == '"')
                field += csv[k++];
            else if (c == '"')
                quoted = false;
            else
                field += c;
        } else if (c == '"' && trimmed(field).empty()) {
            field.clear();
            quoted = wasQuoted = true;
        } else if (c == separator) {
            endField();
        } else if (c == '\n') {
            endRecord();
        } else if (c != '\r') {
            field += c;
        }
        line += c == '\n';
    }
    if (quoted)
        throw Error(ErrorKind::Input, "line {} of '{}' opens a quote that nothing closes; close it", std::to_string(record.line), name);
    if (!field.empty() || !record.fields.empty())
        endRecord();
    return out;
}

std::string lower(std::string text)
{
    for (char& c : text)
        c = c >= 'A' && c <= 'Z' ? char(c - 'A' + 'a') : c;
    return text;
}

// Where each column stands; -1: nowhere.
std::optional<std::array<int, columns.size()>> header(const Fields& fields)
{
    std::array<int, columns.size()> at;
    at.fill(-1);
    for (std::size_t k = 0; k < fields.size(); ++k) {
        const auto found = std::find(columns.begin(), columns.end(), lower(fields[k]));
        if (found != columns.end())
            at[std::size_t(found - columns.begin())] = int(k);
    }
    return at[0] >= 0 ? std::optional(at) : std::nullopt;
}

} // namespace

std::vector<OrderRow> readOrder(std::string_view csv, const std::string& name)
{
    constexpr std::string_view byteOrderMark = "\xef\xbb\xbf";
    if (csv.starts_with(byteOrderMark))
        csv.remove_prefix(byteOrderMark.size());
    std::vector<Record> records = recordsOf(csv, name);
    std::array<int, columns.size()> at = {0, 1, 2, 3, 4};
    const bool named = !records.empty() && header(records.front().fields);
    if (named) {
        at = *header(records.front().fields);
        for (const std::string& field : records.front().fields)
            if (!field.empty() && std::find(columns.begin(), columns.end(), lower(field)) == columns.end())
                throw Error(ErrorKind::Input, "line {} of '{}' names a column '{}'; the columns are file, copies, width, height and recipe",
                            std::to_string(records.front().line), name, cleanText(field));
        records.erase(records.begin());
    }
    if (records.empty())
        throw Error(ErrorKind::Input, "the order list '{}' has no rows; give a picture's file in each", name);
    std::vector<OrderRow> out;
    for (const Record& record : records) {
        const auto fail = [&](const std::string& what) { return Error(ErrorKind::Input, "line {} of '{}': {}", std::to_string(record.line), name, what); };
        const std::size_t most = named ? std::size_t(*std::max_element(at.begin(), at.end())) + 1 : columns.size();
        if (record.fields.size() > most)
            throw fail("it has " + std::to_string(record.fields.size()) + " fields, not " + std::to_string(most) + "; put a file name with a comma in quotes");
        const auto field = [&](std::size_t column) {
            const int k = at[column];
            return k >= 0 && std::size_t(k) < record.fields.size() ? record.fields[std::size_t(k)] : std::string();
        };
        OrderRow row;
        row.line = record.line;
        row.file = field(0);
        if (row.file.empty())
            throw fail("it names no file");
        if (const std::string copies = field(1); !copies.empty()) {
            int n = 0;
            const auto [end, ec] = std::from_chars(copies.data(), copies.data() + copies.size(), n);
            constexpr int most10 = 100'000;
            if (ec != std::errc() || end != copies.data() + copies.size() || n < 1 || n > most10)
                throw fail("'" + cleanText(copies) + "' is not a number of copies from 1 to 100000");
            row.copies = n;
        }
        for (const auto& [column, to] : {std::pair(std::size_t(2), &row.width), std::pair(std::size_t(3), &row.height)})
            if (const std::string text = field(column); !text.empty())
                try {
                    *to = parseLength(text);
                    if (**to < 1_mm || **to > 20'000_mm)
                        throw fail("a " + std::string(columns[column]) + " of " + cleanText(text) + " is out of range; use 1 mm to 20 m");
                } catch (const Error& e) {
                    if (e.kind() == ErrorKind::Input)
                        throw;
                    throw fail(std::string(columns[column]) + ": " + e.what());
                }
        row.recipe = field(4);
        out.push_back(std::move(row));
    }
    return out;
}

namespace {

Recipe recipeOfRow(const OrderRow& row, const std::filesystem::path& folder, const std::function<std::optional<Recipe>(const std::string&)>& recipeNamed)
{
    if (recipeNamed)
        if (auto recipe = recipeNamed(row.recipe))
            return *recipe;
    return openRecipe(folder / row.recipe);
}

} // namespace

std::vector<Piece> openOrder(const std::filesystem::path& path, const std::function<std::optional<Recipe>(const std::string&)>& recipeNamed,
                             const std::function<void(Piece&)>& begin)
{
    const Bytes bytes = readFile(path);
    const std::string_view csv(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    const std::string name = path.filename().string();
    const std::filesystem::path folder = path.parent_path();
    std::map<std::string, Picture> pictures;
    std::map<std::string, Recipe> recipes;
    std::vector<Piece> out;
    for (const OrderRow& row : readOrder(csv, name)) {
        try {
            Piece piece;
            if (!pictures.contains(row.file))
                pictures.emplace(row.file, openArtwork(folder / row.file).picture);
            piece.artwork.picture = pictures.at(row.file);
            piece.name = std::filesystem::path(row.file).stem().string();
            if (begin)
                begin(piece);
            if (!row.recipe.empty()) {
                if (!recipes.contains(row.recipe))
                    recipes.emplace(row.recipe, recipeOfRow(row, folder, recipeNamed));
                apply(recipes.at(row.recipe), piece, HandWork::Goes);
            }
            if (row.width)
                piece.artwork.setWidth(*row.width, !row.height);
            if (row.height)
                piece.artwork.setHeight(*row.height, !row.width);
            piece.artwork.pxPerMm(); // refuses a senseless size before any work
            if (row.copies)
                piece.copies = *row.copies;
            out.push_back(std::move(piece));
        } catch (const Error& e) {
            throw Error(ErrorKind::Input, "line {} of '{}': {}", std::to_string(row.line), name, e.what());
        }
    }
    return out;
}

} // namespace yokai
