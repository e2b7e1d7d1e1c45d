// SPDX-License-Identifier: GPL-3.0-or-later
// The options by which commands say how frames are written out: a recipe by name, and what differs from it.
#pragma once

#include "commands.h"
#include "exchange/export_recipe.h"

namespace optrel::cli {

struct RecipeChoice {
    std::string recipe, as, space, file_name, taken, metadata;
    int bits = 0, longest_side = -1, quality = 0;
    bool compressed = false, plain_samples = false, embed_original = false;
    std::string geometry, falloff;
};
void add_recipe_choice(CLI::App& command, RecipeChoice& choice);

/// The recipe that is named among `known`, or the plain one of the format, with what differs; checked. Throws
/// Error(usage) when neither is given or the two contradict each other.
ExportRecipe chosen_recipe(const RecipeChoice& choice, const std::vector<ExportRecipe>& known);

}  // namespace optrel::cli
