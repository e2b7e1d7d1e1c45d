// SPDX-License-Identifier: GPL-3.0-or-later
// The export recipes of a studio: those that are shipped, and its own over them.
#pragma once

#include <string>
#include <vector>

#include "exchange/export_recipe.h"

namespace optrel {

class Engine;

class StoredRecipes {
public:
    explicit StoredRecipes(Engine& engine) : engine_(engine) {}

    /// By name; one of the studio takes the place of a shipped one of the same name (in any case).
    std::vector<ExportRecipe> all();
    /// In any case. Throws Error(input) with the nearest names.
    ExportRecipe named(const std::string& name);
    bool own(const std::string& name);
    /// Checks, and replaces that of the same name.
    void put(const ExportRecipe& recipe);
    /// Throws Error(input) for a name that is not the studio's own; a shipped one of that name comes back.
    void remove(const std::string& name);

private:
    Engine& engine_;
};

/// Of recipes by name. Throws Error(input) with the nearest names.
const ExportRecipe& recipe_named(const std::vector<ExportRecipe>& recipes, const std::string& name);

}  // namespace optrel
