// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/recipes.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "base/error.h"
#include "base/words.h"
#include "store/engine.h"

namespace optrel {

std::vector<ExportRecipe> StoredRecipes::all() {
    std::map<std::string, ExportRecipe> by_name;
    for (const ExportRecipe& r : shipped_recipes()) by_name[lowered(r.name)] = r;
    QSqlQuery q = engine_.run("SELECT id, document FROM recipes");
    while (q.next())
        by_name[text(q.value(0))] =
            recipe_from_json(text(q.value(1)), fmt::format("The recipe '{}' in the store", text(q.value(0))));
    std::vector<ExportRecipe> out;
    for (auto& [name, recipe] : by_name) out.push_back(std::move(recipe));
    return out;
}

ExportRecipe StoredRecipes::named(const std::string& name) { return recipe_named(all(), name); }

bool StoredRecipes::own(const std::string& name) {
    return engine_.run("SELECT 1 FROM recipes WHERE id = ?", {text(lowered(trimmed(name)))}).next();
}

void StoredRecipes::put(const ExportRecipe& recipe) {
    Transaction transaction(engine_);
    engine_.run(upsert("recipes", {"id", "document"}, "id"),
                {text(lowered(recipe.name)), text(recipe_to_json(recipe))});
    engine_.record({"", "", "recipe", recipe.name, "keep", "", recipe_to_json(recipe)});
    engine_.stamp("recipes");
    transaction.commit();
}

void StoredRecipes::remove(const std::string& name) {
    Transaction transaction(engine_);
    const ExportRecipe there = named(name);
    if (!own(name))
        throw input_error(
            fmt::format("The recipe '{}' comes with Optrel and stays; save one of your own over it.", there.name));
    engine_.run("DELETE FROM recipes WHERE id = ?", {text(lowered(there.name))});
    engine_.record({"", "", "recipe", there.name, "take out", recipe_to_json(there), ""});
    engine_.stamp("recipes");
    transaction.commit();
}

const ExportRecipe& recipe_named(const std::vector<ExportRecipe>& recipes, const std::string& name) {
    std::vector<std::string> names;
    for (const ExportRecipe& r : recipes) {
        if (lowered(r.name) == lowered(trimmed(name))) return r;
        names.push_back(r.name);
    }
    throw input_error(fmt::format("There is no recipe '{}'{}.", printable(name), nearest_clause(name, names)));
}

}  // namespace optrel
