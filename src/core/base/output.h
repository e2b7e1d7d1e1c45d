// SPDX-License-Identifier: GPL-3.0-or-later
// Files that a person names as an output: one rule for all of them.
//
// A file that Optrel did not write is never replaced. One that it did is replaced only when that was asked for. A name
// whose extension says something else than what would be written is refused, because whoever opens the file next goes
// by the name.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace optrel {

/// A kind of file that Optrel writes for people.
struct OutputFormat {
    std::string name;                     ///< as in "a 16-bit TIFF"
    std::vector<std::string> extensions;  ///< in lower case, with the point; the first is the usual one
    /// Whether the file at the path was written by Optrel. `first_line` is that of what is about to be written.
    std::function<bool(const std::filesystem::path& path, const std::string& first_line)> ours;
};

const OutputFormat& json_output();  ///< ours: an object whose "format" begins with "optrel"
const OutputFormat& csv_output();   ///< ours: begins with the same header
const OutputFormat& svg_output();   ///< ours: says Optrel near its beginning
const OutputFormat& pdf_output();   ///< ours: ends with the mark of marked_pdf()
const OutputFormat& png_output();   ///< ours: says Optrel near its beginning

/// A PDF with a comment after its end that says who wrote it; readers pass over it.
std::string marked_pdf(std::string bytes);

enum class Existing { keep, replace_ours };

/// Throws Error(usage) for a contradicting extension and Error(file) for a file that may not be replaced. To be asked
/// before the work that makes the output begins; writing asks again.
void check_output(const std::filesystem::path& path, const OutputFormat& format, Existing existing,
                  const std::string& first_line = "");

void write_output(const std::filesystem::path& path, const OutputFormat& format, Existing existing,
                  const std::string& bytes);

/// For writers that need a path of their own, as write_atomic_with().
void write_output_with(const std::filesystem::path& path, const OutputFormat& format, Existing existing,
                       const std::function<void(const std::filesystem::path&)>& write);

}  // namespace optrel
