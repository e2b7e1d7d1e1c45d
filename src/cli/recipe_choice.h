// SPDX-License-Identifier: GPL-3.0-or-later
// The options by which commands say how frames are written out: a recipe by name, and what differs from it.
#pragma once

#include <optional>

#include "commands.h"
#include "exchange/export_recipe.h"

namespace optrel::cli {

struct RecipeChoice {
    std::optional<std::string> recipe, as, space, file_name, taken, metadata, geometry, falloff, codec, container;
    std::optional<int> bits, longest_side, quality;
    bool compressed = false, plain_samples = false, embed_original = false;

    bool operator==(const RecipeChoice& o) const = default;
};
void add_recipe_choice(CLI::App& command, RecipeChoice& choice);

/// The recipe that is named among `known`, or the plain one of the format, with what differs; checked. Throws
/// Error(usage) when neither is given, when the two contradict each other, and for what the
/// format does not have.
ExportRecipe chosen_recipe(const RecipeChoice& choice, const std::vector<ExportRecipe>& known);

}  // namespace optrel::cli
