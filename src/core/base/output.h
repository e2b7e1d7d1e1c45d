// SPDX-License-Identifier: GPL-3.0-or-later
// Output files that a user names: one rule for all of them.
//
// A file that Optrel did not write is never replaced. A file that Optrel wrote is replaced only on request. An
// extension that contradicts the format is refused, because other programs rely on the extension.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace optrel {

/// A file format that Optrel writes for users.
struct OutputFormat {
    std::string name;                     ///< for messages, for example "a 16-bit TIFF"
    std::vector<std::string> extensions;  ///< allowed extensions in lower case with the dot; the first is the default
    /// Whether Optrel wrote the file at the path. `first_line` is the first line of the new contents.
    std::function<bool(const std::filesystem::path& path, const std::string& first_line)> ours;
};

const OutputFormat& json_output();  ///< recognised by an object whose "format" begins with "optrel"
const OutputFormat& csv_output();   ///< recognised by the same header line
const OutputFormat& svg_output();   ///< recognised by "Optrel" near its beginning
const OutputFormat& pdf_output();   ///< recognised by the mark of marked_pdf()
const OutputFormat& png_output();   ///< recognised by "Optrel" near its beginning

/// Appends a comment to a PDF that marks it as written by Optrel. Readers ignore it.
std::string marked_pdf(std::string bytes);

enum class Existing { keep, replace_ours };

/// Throws Error(usage) for a contradicting extension, and Error(file) for a file that must not be replaced. Call it
/// before the work starts; the writer checks again.
void check_output(const std::filesystem::path& path, const OutputFormat& format, Existing existing,
                  const std::string& first_line = "");

void write_output(const std::filesystem::path& path, const OutputFormat& format, Existing existing,
                  const std::string& bytes);

/// For writers that need a path, as write_atomic_with().
void write_output_with(const std::filesystem::path& path, const OutputFormat& format, Existing existing,
                       const std::function<void(const std::filesystem::path&)>& write);

}  // namespace optrel
