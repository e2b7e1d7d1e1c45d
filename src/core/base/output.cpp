// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/output.h"

#include <fmt/format.h>
#include <sys/stat.h>

#include <algorithm>
#include <fstream>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/words.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

constexpr const char* pdf_mark = "%Optrel\n";

std::string head_of(const fs::path& path, std::size_t most) {
    std::ifstream in(path, std::ios::binary);
    std::string head(most, '\0');
    in.read(head.data(), static_cast<std::streamsize>(most));
    head.resize(static_cast<std::size_t>(in.gcount()));
    return head;
}

bool says_optrel(const fs::path& path, const std::string&) {
    return head_of(path, 8192).find("Optrel") != std::string::npos;
}

bool ours_json(const fs::path& path, const std::string&) {
    try {
        const nlohmann::json j = parse_json(read_file(path), path.string());
        return j.is_object() && j.contains("format") && j["format"].is_string() &&
               j["format"].get<std::string>().rfind("optrel", 0) == 0;
    } catch (const Error&) {
        return false;
    }
}

bool ours_csv(const fs::path& path, const std::string& first_line) {
    return !first_line.empty() && head_of(path, first_line.size() + 1).rfind(first_line, 0) == 0;
}

bool ours_pdf(const fs::path& path, const std::string&) {
    std::ifstream in(path, std::ios::binary);
    const std::string mark = pdf_mark;
    in.seekg(-static_cast<std::streamoff>(mark.size()), std::ios::end);
    std::string tail(mark.size(), '\0');
    in.read(tail.data(), static_cast<std::streamsize>(tail.size()));
    return in && tail == mark;
}

std::string first_line_of(const std::string& bytes) { return bytes.substr(0, bytes.find_first_of("\r\n")); }

/// Whether the path exists. Anything but a regular file is refused.
bool is_there(const fs::path& path) {
    struct ::stat status = {};
    if (::lstat(path.c_str(), &status) != 0) return false;  // the writer reports problems of the folder
    if (S_ISDIR(status.st_mode))
        throw file_error(fmt::format("Cannot write {}: it is a folder; name a file.", printable(path.string())));
    if (!S_ISREG(status.st_mode))
        throw file_error(fmt::format("Cannot write {}: a link, a pipe or a device stands there; choose another name.",
                                     printable(path.string())));
    return true;
}

}  // namespace

const OutputFormat& json_output() {
    static const OutputFormat format{"JSON", {".json"}, ours_json};
    return format;
}
const OutputFormat& csv_output() {
    static const OutputFormat format{"CSV", {".csv"}, ours_csv};
    return format;
}
const OutputFormat& svg_output() {
    static const OutputFormat format{"SVG", {".svg"}, says_optrel};
    return format;
}
const OutputFormat& pdf_output() {
    static const OutputFormat format{"PDF", {".pdf"}, ours_pdf};
    return format;
}
const OutputFormat& png_output() {
    static const OutputFormat format{"PNG", {".png"}, says_optrel};
    return format;
}

std::string marked_pdf(std::string bytes) {
    if (!bytes.empty() && bytes.back() != '\n') bytes += '\n';
    return bytes + pdf_mark;
}

void check_output(const fs::path& path, const OutputFormat& format, Existing existing, const std::string& first_line) {
    const std::string extension = lowered_extension(path);
    if (!extension.empty() &&
        std::find(format.extensions.begin(), format.extensions.end(), extension) == format.extensions.end())
        throw usage_error(fmt::format("{} would be {}, which its name does not say; give it the extension {}.",
                                      printable(path.string()), format.name, fmt::join(format.extensions, " or ")));
    if (!is_there(path)) return;
    if (!format.ours(path, first_line))
        throw file_error(
            fmt::format("{} is there and was not written by Optrel, so it is not replaced; choose another name.",
                        printable(path.string())));
    if (existing == Existing::keep)
        throw file_error(
            fmt::format("{} is there already; choose another name, or ask for it to be replaced (--overwrite).",
                        printable(path.string())));
}

namespace {

/// Determine it before the file is checked: only a checked file may be replaced, not one that appears later.
IfThere if_it_appears(const fs::path& path, Existing existing) {
    return existing != Existing::keep && is_there(path) ? IfThere::replace : IfThere::fail;
}

}  // namespace

void write_output(const fs::path& path, const OutputFormat& format, Existing existing, const std::string& bytes) {
    const IfThere if_there = if_it_appears(path, existing);
    check_output(path, format, existing, first_line_of(bytes));
    if (if_there == IfThere::replace)
        write_atomic(path, bytes);
    else
        write_new(path, bytes);
}

void write_output_with(const fs::path& path, const OutputFormat& format, Existing existing,
                       const std::function<void(const fs::path&)>& write) {
    const IfThere if_there = if_it_appears(path, existing);
    check_output(path, format, existing);
    write_atomic_with(path, write, if_there);
}

}  // namespace optrel
