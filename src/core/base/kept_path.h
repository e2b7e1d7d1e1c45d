// SPDX-License-Identifier: GPL-3.0-or-later
// A compact path for very long lists. std::filesystem::path stores each component separately, about 400 bytes per
// frame; this class stores the text only and converts on demand.
#pragma once

#include <filesystem>
#include <string>
#include <utility>

namespace optrel {

class KeptPath {
public:
    KeptPath() = default;
    // NOLINTBEGIN(google-explicit-constructor): it is used as a path is
    KeptPath(const std::filesystem::path& path) : text_(path.native()) {}
    KeptPath(std::string text) : text_(std::move(text)) {}
    KeptPath(const char* text) : text_(text) {}
    operator std::filesystem::path() const { return text_; }
    // NOLINTEND(google-explicit-constructor)

    const std::string& string() const { return text_; }
    const std::string& native() const { return text_; }
    bool empty() const { return text_.empty(); }
    std::filesystem::path path() const { return text_; }
    std::filesystem::path filename() const { return path().filename(); }
    std::filesystem::path parent_path() const { return path().parent_path(); }
    std::filesystem::path extension() const { return path().extension(); }
    std::filesystem::path stem() const { return path().stem(); }

    bool operator==(const KeptPath& o) const { return text_ == o.text_; }
    bool operator<(const KeptPath& o) const { return text_ < o.text_; }
    bool operator==(const std::filesystem::path& o) const { return text_ == o.native(); }
    bool operator==(const std::string& o) const { return text_ == o; }
    bool operator==(const char* o) const { return text_ == o; }

private:
    std::string text_;
};

}  // namespace optrel
