// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/chart_file.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <sstream>

#include "base/error.h"
#include "base/files.h"
#include "base/numbers.h"
#include "base/words.h"
#include "patches/colorimetry.h"
#include "render/colour.h"

namespace optrel {
namespace {

constexpr std::size_t largest_file = 4u << 20;
constexpr int most_side = 64;

/// Words of a line; quoted ones keep their spaces, a # begins a comment.
std::vector<std::string> words_of(const std::string& line) {
    std::vector<std::string> out;
    for (std::size_t i = 0; i < line.size();) {
        if (std::isspace(static_cast<unsigned char>(line[i]))) {
            ++i;
        } else if (line[i] == '#') {
            break;
        } else if (line[i] == '"') {
            const std::size_t end = line.find('"', i + 1);
            out.push_back(line.substr(i + 1, end == std::string::npos ? end : end - i - 1));
            i = end == std::string::npos ? line.size() : end + 1;
        } else {
            std::size_t end = i;
            while (end < line.size() && !std::isspace(static_cast<unsigned char>(line[end]))) ++end;
            out.push_back(line.substr(i, end - i));
            i = end;
        }
    }
    return out;
}

/// The wavelength that a field names, as in SPECTRAL_NM400 or SPECTRAL_NM_400; empty for another field.
std::optional<int> wavelength_of(const std::string& field) {
    for (const char* prefix : {"SPECTRAL_NM_", "SPECTRAL_NM"}) {
        if (field.rfind(prefix, 0) != 0) continue;
        const auto nm = parse_integer(field.substr(std::string(prefix).size()));
        if (nm && *nm >= 100 && *nm <= 2000) return static_cast<int>(*nm);
    }
    return std::nullopt;
}

class ChartReader {
public:
    ChartReader(const std::string& text, std::string where) : where_(std::move(where)) {
        std::istringstream lines(text);
        std::string line;
        while (std::getline(lines, line)) {
            ++line_;
            if (const std::vector<std::string> words = words_of(line); !words.empty()) take(words);
        }
    }

    PatchChart finished() {
        if (fields_.empty()) throw missing("BEGIN_DATA_FORMAT with the names of its fields");
        if (!done_) throw missing("END_DATA");
        PatchChart out;
        out.name = where_;
        out.columns = side("CHART_COLUMNS");
        out.rows = side("CHART_ROWS");
        out.pitch_mm = length("PATCH_PITCH_MM");
        out.patch_mm = length("PATCH_SIZE_MM");
        if (out.patch_mm > out.pitch_mm)
            throw input_error(
                fmt::format("{} has patches of {:g} mm at a pitch of {:g} mm; a patch is not larger than "
                            "its pitch.",
                            where_, out.patch_mm, out.pitch_mm));
        out.illuminant = keyword("ILLUMINANT");
        const std::optional<Spectrum> light = standard_light(out.illuminant);
        if (!light)
            throw input_error(fmt::format("{} names the illuminant '{}'; A, D50, D55, D65 and D75 are known.", where_,
                                          printable(out.illuminant)));
        for (const Row& row : data_) out.patches.push_back(patch_of(row, out, *light));
        if (out.patches.size() < 6)
            throw input_error(fmt::format("{} has {} patches; at least 6 are needed.", where_, out.patches.size()));
        require_places(out);
        return out;
    }

private:
    struct Row {
        int line;
        std::vector<std::string> words;
    };

    void take(const std::vector<std::string>& words) {
        if (words[0] == "BEGIN_DATA_FORMAT" || words[0] == "END_DATA_FORMAT" || words[0] == "BEGIN_DATA" ||
            words[0] == "END_DATA") {
            inside_ = Inside::head;
            if (words[0] == "BEGIN_DATA_FORMAT") inside_ = Inside::format;
            if (words[0] == "BEGIN_DATA") inside_ = Inside::data;
            done_ = done_ || words[0] == "END_DATA";
        } else if (inside_ == Inside::format) {
            fields_.insert(fields_.end(), words.begin(), words.end());
        } else if (inside_ == Inside::data) {
            if (words.size() != fields_.size())
                throw input_error(
                    fmt::format("{}, line {}: {} values stand where the file names {} fields; decimal "
                                "commas and missing values are not read.",
                                where_, line_, words.size(), fields_.size()));
            data_.push_back({line_, words});
        } else if (words.size() > 1) {
            keywords_[words[0]] = {line_, {words[1]}};
        }
    }

    Error missing(const std::string& what) const {
        return input_error(fmt::format("{} lacks {}, which a chart file has; add it.", where_, what));
    }
    std::string keyword(const std::string& name) const {
        const auto found = keywords_.find(name);
        if (found == keywords_.end()) throw missing("the keyword " + name);
        return found->second.words[0];
    }
    double number(const std::string& text, int line, const std::string& what) const {
        const std::optional<double> value = parse_number(text);
        if (!value)
            throw input_error(fmt::format("{}, line {}: '{}' is no number for {}; write it with a decimal point.",
                                          where_, line, printable(text), what));
        return *value;
    }
    double keyword_number(const std::string& name) const {
        const std::string text = keyword(name);
        return number(text, keywords_.at(name).line, name);
    }
    int side(const std::string& name) const {
        const double value = keyword_number(name);
        if (value != std::floor(value) || value < 1 || value > most_side)
            throw input_error(fmt::format("{}, line {}: {} is a whole number from 1 to {}.", where_,
                                          keywords_.at(name).line, name, most_side));
        return static_cast<int>(value);
    }
    double length(const std::string& name) const {
        const double value = keyword_number(name);
        if (!(value > 0 && value < 10000))
            throw input_error(fmt::format("{}, line {}: {} is a length in mm.", where_, keywords_.at(name).line, name));
        return value;
    }
    std::optional<std::size_t> field(const std::string& name) const {
        const auto found = std::find(fields_.begin(), fields_.end(), name);
        if (found == fields_.end()) return std::nullopt;
        return static_cast<std::size_t>(found - fields_.begin());
    }
    std::optional<cv::Vec3d> three(const Row& row, const char* first, const char* second, const char* third) const {
        const auto a = field(first), b = field(second), c = field(third);
        if (!a || !b || !c) return std::nullopt;
        return cv::Vec3d(number(row.words[*a], row.line, first), number(row.words[*b], row.line, second),
                         number(row.words[*c], row.line, third));
    }

    ReferencePatch patch_of(const Row& row, const PatchChart& chart, const Spectrum& light) const {
        const auto id = field("SAMPLE_ID"), place = field("SAMPLE_LOC");
        if (!id || !place) throw missing("the fields SAMPLE_ID and SAMPLE_LOC");
        ReferencePatch out;
        out.id = row.words[*id];
        const std::string& text = row.words[*place];
        const auto at_row = text.size() > 1 ? parse_integer(text.substr(1)) : std::nullopt;
        out.column = std::toupper(static_cast<unsigned char>(text[0])) - 'A';
        out.row = at_row ? static_cast<int>(std::clamp<long long>(*at_row, -1, 1000)) - 1 : -1;
        if (out.column < 0 || out.column >= chart.columns || out.row < 0 || out.row >= chart.rows)
            throw input_error(fmt::format(
                "{}, line {}: '{}' is no place of a chart of {} columns and {} rows; A1 is the upper left one.", where_,
                row.line, printable(text), chart.columns, chart.rows));
        out.xyz_d50 = colour_of(row, light);
        for (const double v : out.xyz_d50.val)
            if (!(v > -0.05 && v < 1.6))
                throw input_error(fmt::format("{}, line {}: the patch {} has a colour that no surface has.", where_,
                                              row.line, printable(out.id)));
        return out;
    }

    cv::Vec3d colour_of(const Row& row, const Spectrum& light) const {
        const cv::Vec3d white = white_of(light);
        const bool is_d50 = keywords_.at("ILLUMINANT").words[0] == "D50";
        const auto adapted = [&](const cv::Vec3d& xyz) { return is_d50 ? xyz : white_to_d50(white) * xyz; };
        if (const auto lab = three(row, "LAB_L", "LAB_A", "LAB_B"))
            return is_d50 ? xyz_of_lab(*lab, white_d50) : adapted(xyz_of_lab(*lab, white));
        if (const auto xyz = three(row, "XYZ_X", "XYZ_Y", "XYZ_Z")) return adapted(*xyz * 0.01);
        return xyz_of(spectrum_of(row), *standard_light("D50"));
    }

    Spectrum spectrum_of(const Row& row) const {
        std::map<int, double> values;
        double largest = 0;
        for (std::size_t i = 0; i < fields_.size(); ++i)
            if (const auto nm = wavelength_of(fields_[i])) {
                values[*nm] = number(row.words[i], row.line, fields_[i]);
                largest = std::max(largest, values[*nm]);
            }
        if (values.size() < 3)
            throw missing("the fields LAB_L LAB_A LAB_B, XYZ_X XYZ_Y XYZ_Z, or SPECTRAL_NM400 and so on");
        if (values.begin()->first > 420 || values.rbegin()->first < 680)
            throw input_error(fmt::format("{} has spectra from {} to {} nm; at least 420 to 680 nm are needed.", where_,
                                          values.begin()->first, values.rbegin()->first));
        const double scale = largest > 2 ? 0.01 : 1;
        Spectrum out;
        for (int nm = spectrum_first_nm; nm <= spectrum_last_nm; nm += spectrum_step_nm) {
            const auto above = values.lower_bound(nm);
            if (above == values.end()) {
                out.push_back(scale * values.rbegin()->second);
            } else if (above->first == nm || above == values.begin()) {
                out.push_back(scale * above->second);
            } else {
                const auto below = std::prev(above);
                const double share = static_cast<double>(nm - below->first) / (above->first - below->first);
                out.push_back(scale * (below->second + share * (above->second - below->second)));
            }
        }
        return out;
    }

    void require_places(const PatchChart& chart) const {
        std::map<std::pair<int, int>, std::string> seen;
        for (const ReferencePatch& p : chart.patches)
            if (const auto [at, fresh] = seen.try_emplace({p.column, p.row}, p.id); !fresh)
                throw input_error(fmt::format("{} has two patches at one place, {} and {}.", where_,
                                              printable(at->second), printable(p.id)));
    }

    enum class Inside { head, format, data };
    std::string where_;
    int line_ = 0;
    Inside inside_ = Inside::head;
    bool done_ = false;
    std::map<std::string, Row> keywords_;
    std::vector<std::string> fields_;
    std::vector<Row> data_;
};

}  // namespace

const ReferencePatch* PatchChart::at(int column, int row) const {
    for (const ReferencePatch& p : patches)
        if (p.column == column && p.row == row) return &p;
    return nullptr;
}

PatchChart patch_chart_from(const std::string& text, const std::string& where) {
    return ChartReader(text, where).finished();
}

PatchChart read_patch_chart(const std::filesystem::path& path) {
    return patch_chart_from(read_file(path, largest_file), printable(path.string()));
}

std::string patch_chart_to_text(const PatchChart& chart) {
    std::string out = fmt::format(
        "CGATS.17\nORIGINATOR \"Optrel\"\nCHART_COLUMNS {}\nCHART_ROWS {}\nPATCH_PITCH_MM {:g}\nPATCH_SIZE_MM {:g}\n"
        "ILLUMINANT D50\nNUMBER_OF_FIELDS 5\nBEGIN_DATA_FORMAT\nSAMPLE_ID SAMPLE_LOC LAB_L LAB_A LAB_B\n"
        "END_DATA_FORMAT\nNUMBER_OF_SETS {}\nBEGIN_DATA\n",
        chart.columns, chart.rows, chart.pitch_mm, chart.patch_mm, chart.patches.size());
    for (const ReferencePatch& p : chart.patches) {
        const cv::Vec3d lab = lab_of(p.xyz_d50, white_d50);
        out += fmt::format("{} {}{} {:.3f} {:.3f} {:.3f}\n", p.id, static_cast<char>('A' + p.column), p.row + 1, lab[0],
                           lab[1], lab[2]);
    }
    return out + "END_DATA\n";
}

}  // namespace optrel
