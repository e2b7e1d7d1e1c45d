// SPDX-License-Identifier: GPL-3.0-or-later
// Names of exported files, made of tokens.
//
//   {name}       the frame's own name without its extension
//   {date} {time}   20260302, 101500; {year} {month} {day} their parts
//   {body}       what the studio calls the body; otherwise its serial number
//   {model} {lens} {iso} {focal} {aperture}
//   {delivery}     the delivery's name
//   {number}     counts the frames of one export, from 0001; {number:3} with three figures at least
//
// {lens|no lens} gives "no lens" for a frame that says nothing of its lens; without it such a frame is refused. A /
// outside a token makes a folder; inside a value it becomes a hyphen, like everything else that some file system does
// not take.
#pragma once

#include <string>
#include <vector>

#include "frames/metadata.h"

namespace optrel {

struct NameFacts {
    std::string name;  ///< of the frame's file, without extension
    std::string body;  ///< empty: unknown
    std::string delivery;
    int number = 1;
    Metadata metadata;
};

/// All tokens, without braces.
const std::vector<std::string>& name_tokens();

/// Throws Error(input) for an open brace, an unknown token, a path that leaves the folder, an empty name, or a pattern
/// that gives all frames the same name.
void check_name_pattern(const std::string& pattern);

/// A relative path without extension. Throws Error(input) about the token that is empty for this frame.
std::string name_from(const std::string& pattern, const NameFacts& facts);

}  // namespace optrel
