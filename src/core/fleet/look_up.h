// SPDX-License-Identifier: GPL-3.0-or-later
// What a person calls a thing, found: the one look-up of everything that a command or a field names.
//
// Ways of naming are tried from the surest to the loosest (id, asset tag, serial number, name, text; exactly, then
// without regard to case). The first way that finds something decides. Several things found are told; none is refused
// with those that are nearest, because a mistyped name must never be answered by a plausible result.
#pragma once

#include <string>
#include <vector>

#include "fleet/register.h"

namespace optrel {

/// A thing that can be named: what it is known by inside, and its names, the surest first.
struct Named {
    std::string id;
    std::vector<std::string> names;
};

/// The id that a text means. `what` says what is looked for, as in "body"; `where_listed` how a person sees them all.
/// Throws Error(input).
std::string look_up(const std::string& what, const std::string& text, const std::vector<Named>& things,
                    const std::string& where_listed);

/// Bodies, lens copies and models of the register.
std::string look_up_body(const Register& all, const std::string& text);
std::string look_up_lens_copy(const Register& all, const std::string& text);
/// A camera model that the register knows, or one of `reported`, which files report.
std::string look_up_model(const Register& all, const std::string& text, const std::vector<std::string>& reported = {});
/// A lens by its text, in any spelling: the register's text, or one of `reported`. A copy's id, tag or name gives that
/// copy's text.
std::string look_up_lens_text(const Register& all, const std::string& text,
                              const std::vector<std::string>& reported = {});

}  // namespace optrel
