#include "formats/project/recipe_file.h"

#include "base/file.h"
#include "base/text.h"
#include "formats/project/json_fields.h"
#include "formats/project/project.h"
#include "formats/project/upgrade.h"

namespace yokai {

using project::Json;

namespace {
constexpr int recipeVersion = 1;
}

Bytes writeRecipe(const Recipe& recipe)
{
    Json json = {{"yokai_recipe", recipeVersion}, {"length_unit", "mm/360000"}};
    const project::Writer::Entry none = [](const Picture&) { return std::string(); };
    json.update(project::Writer(none).json(recipe));
    const std::string text = json.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
    return {text.begin(), text.end()};
}

Recipe openRecipe(const std::filesystem::path& path)
{
    if (path.extension() == ".yokai") {
        const Job job = openProject(path);
        if (job.pieces.empty())
            throw Error(ErrorKind::Input, "the job '{}' has no pieces, so no recipe; add a picture to it", path.string());
        return recipeOf(job.pieces.front(), job.pieces.front().name);
    }
    const Bytes text = readFile(path);
    const auto fail = [&](const std::string& why) { return Error(ErrorKind::Input, "cannot read the recipe '{}': {}; save it again", path.string(), cleanText(why)); };
    try {
        const Json json = Json::parse(text.begin(), text.end());
        if (json.at("yokai_recipe").get<int>() > recipeVersion)
            throw fail("a newer Yokai wrote it");
        const project::Reader::Open none = [](const std::string&, const std::string&, int) { return Picture{}; };
        Recipe recipe;
        project::Reader(none).read(json, recipe, "");
        return recipe;
    } catch (const nlohmann::json::exception& e) {
        throw fail(e.what());
    } catch (const project::BadField& e) {
        throw fail(e.what());
    }
}

} // namespace yokai
