// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/whole_file.h"

#include <algorithm>
#include <cstdint>
#include <fstream>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "frames/tiff_tags.h"

namespace optrel {
namespace {

/// Reads parts of a file; empty beyond its end.
class Places {
public:
    explicit Places(const std::filesystem::path& path) : in_(path, std::ios::binary) {
        in_.seekg(0, std::ios::end);
        size_ = in_ ? static_cast<std::uint64_t>(in_.tellg()) : 0;
    }
    std::uint64_t size() const { return size_; }
    std::optional<std::string> at(std::uint64_t place, std::size_t count) {
        if (count > size_ || place > size_ - count) return std::nullopt;
        std::string out(count, '\0');
        in_.seekg(static_cast<std::streamoff>(place));
        in_.read(out.data(), static_cast<std::streamsize>(count));
        return in_ ? std::optional(out) : std::nullopt;
    }

private:
    std::ifstream in_;
    std::uint64_t size_ = 0;
};

/// Directories of TIFF 6.0, including nested ones.
class Directories {
public:
    Directories(Places& file, bool little) : file_(file), little_(little) {}

    bool whole() {
        const auto first = number(4, 4);
        if (!first || *first == 0) return false;
        waiting_.push_back(*first);
        constexpr std::size_t most = 200;
        while (!waiting_.empty()) {
            const std::uint64_t at = waiting_.back();
            waiting_.pop_back();
            if (!seen_.insert(at).second) continue;
            if (seen_.size() > most || !directory(at)) return false;
        }
        return true;
    }

private:
    struct Entry {
        std::uint16_t tag = 0;
        std::uint64_t width = 0, count = 0, place = 0;  ///< size of a value, their number, their position
    };

    std::optional<std::uint64_t> number(std::uint64_t place, std::size_t bytes) {
        const auto raw = file_.at(place, bytes);
        if (!raw) return std::nullopt;
        std::uint64_t out = 0;
        for (std::size_t k = 0; k < bytes; ++k)
            out = out << 8 | static_cast<unsigned char>((*raw)[little_ ? bytes - 1 - k : k]);
        return out;
    }

    std::optional<Entry> entry(std::uint64_t place) {
        static constexpr int widths[] = {0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4};
        const auto tag = number(place, 2), type = number(place + 2, 2), count = number(place + 4, 4);
        if (!tag || !type || !count) return std::nullopt;
        Entry out{static_cast<std::uint16_t>(*tag), 0, *count, place + 8};
        if (*type < std::size(widths)) out.width = static_cast<std::uint64_t>(widths[*type]);
        if (out.width * out.count <= 4) return out;
        const auto far = number(place + 8, 4);
        // Values may also lie beyond the end.
        if (!far || *far + out.width * out.count > file_.size()) return std::nullopt;
        out.place = *far;
        return out;
    }

    /// The values of an entry; there may be one for each strip of a picture.
    std::optional<std::vector<std::uint64_t>> values(const Entry& e) {
        constexpr std::uint64_t most = 1 << 20;
        if (e.count > most || e.width == 0 || e.width > 4) return std::nullopt;
        std::vector<std::uint64_t> out;
        for (std::uint64_t i = 0; i < e.count; ++i) {
            const auto v = number(e.place + i * e.width, e.width);
            if (!v) return std::nullopt;
            out.push_back(*v);
        }
        return out;
    }

    bool directory(std::uint64_t at) {
        const auto count = number(at, 2);
        // An empty directory means that its place was reserved but not written yet.
        if (!count || *count == 0) return false;
        std::vector<std::uint64_t> offsets, sizes;
        for (std::uint64_t i = 0; i < *count; ++i) {
            const auto e = entry(at + 2 + 12 * i);
            if (!e) return false;
            const bool below = e->tag == tag::sub_ifds || e->tag == tag::exif_ifd;
            const bool places = e->tag == tag::strip_offsets || e->tag == tag::tile_offsets,
                       lengths = e->tag == tag::strip_byte_counts || e->tag == tag::tile_byte_counts;
            if (!below && !places && !lengths) continue;
            const auto found = values(*e);
            if (!found) return false;
            std::vector<std::uint64_t>* to = places ? &offsets : &sizes;
            if (below) to = &waiting_;
            to->insert(to->end(), found->begin(), found->end());
        }
        for (std::size_t i = 0; i < std::min(offsets.size(), sizes.size()); ++i)
            if (offsets[i] + sizes[i] > file_.size()) return false;
        const auto next = number(at + 2 + 12 * *count, 4);
        if (!next) return false;
        if (*next != 0) waiting_.push_back(*next);
        return true;
    }

    Places& file_;
    bool little_;
    std::vector<std::uint64_t> waiting_;
    std::set<std::uint64_t> seen_;
};

/// True when these bytes are near the end; some programs write a few bytes after them.
bool ends_with(Places& file, const std::string& mark) {
    const std::size_t count = static_cast<std::size_t>(std::min<std::uint64_t>(file.size(), 65536));
    const auto end = file.at(file.size() - count, count);
    return end && end->rfind(mark) != std::string::npos;
}

bool boxes_whole(Places& file) {
    constexpr int most = 100000;
    std::uint64_t at = 0;
    for (int i = 0; i < most && at < file.size(); ++i) {
        const auto head = file.at(at, 8);
        if (!head) return false;
        const auto big = [&](const std::string& bytes) {
            std::uint64_t out = 0;
            for (const char c : bytes) out = out << 8 | static_cast<unsigned char>(c);
            return out;
        };
        std::uint64_t size = big(head->substr(0, 4));
        if (size == 0) return true;  // extends to the end of the file
        if (size == 1) {
            const auto large = file.at(at + 8, 8);
            if (!large) return false;
            size = big(*large);
        }
        if (size < 8 || size > file.size() - at) return false;
        at += size;
    }
    return at == file.size();
}

}  // namespace

bool is_whole(const std::filesystem::path& path) {
    Places file(path);
    const auto head = file.at(0, 12);
    if (!head) return false;
    const auto starts = [&](const std::string& mark, std::size_t from = 0) {
        return head->compare(from, mark.size(), mark) == 0;
    };
    using namespace std::string_literals;
    if (starts("II*\0"s) || starts("MM\0*"s)) return Directories(file, (*head)[0] == 'I').whole();
    if (starts("\xff\xd8\xff"s)) return ends_with(file, "\xff\xd9");
    if (starts("\x89PNG"s)) return ends_with(file, "IEND\xae\x42\x60\x82");
    if (starts("ftyp", 4)) return boxes_whole(file);
    return true;
}

}  // namespace optrel
