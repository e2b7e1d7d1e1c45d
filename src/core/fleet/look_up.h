// SPDX-License-Identifier: GPL-3.0-or-later
// Finds things by the names that users type, for all commands and input fields.
//
// Kinds of names are tried in order of reliability (id, asset tag, serial number, name, text; first exactly, then
// ignoring case). The first kind with a match decides. Several matches are an error that lists them; no match is an
// error with similar names, because a mistyped name must never give a plausible result.
#pragma once

#include <string>
#include <vector>

#include "fleet/register.h"

namespace optrel {

/// A thing with its internal id and its names, the most reliable first.
struct Named {
    std::string id;
    std::vector<std::string> names;
};

/// Id for a text. `what`: what is searched, for example "body"; `where_listed`: how the user can list all. Throws
/// Error(input).
std::string look_up(const std::string& what, const std::string& text, const std::vector<Named>& things,
                    const std::string& where_listed);

/// Bodies, lens copies and models of the register.
std::string look_up_body(const Register& all, const std::string& text);
std::string look_up_lens_copy(const Register& all, const std::string& text);
/// Camera model of the register, or one of `reported`, the models in files.
std::string look_up_model(const Register& all, const std::string& text, const std::vector<std::string>& reported = {});
/// Lens text in any spelling, from the register or from `reported`. An id, tag or name of an individual lens gives the
/// text of that lens.
std::string look_up_lens_text(const Register& all, const std::string& text,
                              const std::vector<std::string>& reported = {});

}  // namespace optrel
