// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/lossless_jpeg.h"

#include <algorithm>
#include <array>
#include <cstdint>

namespace optrel {

namespace {

/// Differences are coded by the number of bits that they need: 0 to 16.
constexpr int categories = 17;

int bits_of(int difference) {
    int magnitude = std::abs(difference), bits = 0;
    while (magnitude) {
        magnitude >>= 1;
        ++bits;
    }
    return bits;
}

/// The difference to the prediction, modulo 2^16 (T.81, H.1.2.1): from -32767 to 32768.
int difference_at(const cv::Mat1w& samples, int components, int row, int column) {
    int predicted = 1 << 15;
    if (column >= components)
        predicted = samples(row, column - components);
    else if (row > 0)
        predicted = samples(row - 1, column);
    const int difference = (samples(row, column) - predicted) & 0xffff;
    return difference > 32768 ? difference - 65536 : difference;
}

struct HuffmanTable {
    std::array<int, 17> count{};  ///< codes of each length, [1] to [16]
    std::vector<int> symbols;     ///< in the order of their codes
    std::array<std::uint32_t, categories> code{};
    std::array<int, categories> length{};
};

/// Lengths of the optimal codes (T.81, K.2). The code of all ones must not occur, so an additional symbol that is never
/// used takes it.
std::array<int, 33> lengths_of(std::array<long long, categories + 1> frequency, std::array<int, categories + 1>& size) {
    frequency[categories] = 1;
    std::array<int, categories + 1> others;
    others.fill(-1);
    size.fill(0);
    for (;;) {
        int least = -1, next = -1;
        for (int i = 0; i <= categories; ++i) {
            if (frequency[i] == 0) continue;
            if (least < 0 || frequency[i] <= frequency[least]) {
                next = least;
                least = i;
            } else if (next < 0 || frequency[i] <= frequency[next]) {
                next = i;
            }
        }
        if (next < 0) break;
        frequency[least] += frequency[next];
        frequency[next] = 0;
        const auto deepen = [&](int i) {
            for (;;) {
                ++size[i];
                if (others[i] < 0) return i;
                i = others[i];
            }
        };
        others[deepen(least)] = next;
        deepen(next);
    }
    std::array<int, 33> count{};
    for (const int length : size)
        if (length > 0) ++count[length];
    return count;
}

/// Limits codes to 16 bits by moving pairs of the longest ones up (T.81, figure K.3).
void shorten(std::array<int, 33>& count) {
    for (int i = 32; i > 16; --i)
        while (count[i] > 0) {
            int j = i - 2;
            while (count[j] == 0) --j;
            count[i] -= 2;
            ++count[i - 1];
            count[j + 1] += 2;
            --count[j];
        }
    int longest = 16;
    while (count[longest] == 0) --longest;
    --count[longest];  // the code of all ones
}

HuffmanTable best_table(const std::array<long long, categories + 1>& frequency) {
    HuffmanTable out;
    std::array<int, categories + 1> size;
    std::array<int, 33> count = lengths_of(frequency, size);
    shorten(count);
    for (int length = 1; length <= 16; ++length) out.count[length] = count[length];
    for (int length = 1; length <= 32; ++length)
        for (int symbol = 0; symbol < categories; ++symbol)
            if (size[symbol] == length) out.symbols.push_back(symbol);
    std::uint32_t code = 0;
    std::size_t at = 0;
    for (int length = 1; length <= 16; ++length) {
        for (int i = 0; i < out.count[length]; ++i) {
            const int symbol = out.symbols[at++];
            out.code[symbol] = code++;
            out.length[symbol] = length;
        }
        code <<= 1;
    }
    return out;
}

class BitWriter {
public:
    explicit BitWriter(std::string& out) : out_(out) {}
    void put(std::uint32_t bits, int count) {
        held_ = (held_ << count) | bits;
        have_ += count;
        while (have_ >= 8) {
            have_ -= 8;
            byte(static_cast<unsigned char>(held_ >> have_));
        }
    }
    void finish() {
        if (have_ > 0) put((1u << (8 - have_)) - 1, 8 - have_);
    }

private:
    void byte(unsigned char b) {
        out_ += static_cast<char>(b);
        if (b == 0xff) out_ += '\0';  // T.81, B.1.1.5
    }

    std::string& out_;
    std::uint64_t held_ = 0;
    int have_ = 0;
};

void put_big_16(std::string& out, int value) {
    out += static_cast<char>(value >> 8);
    out += static_cast<char>(value);
}

void put_headers(std::string& out, const cv::Size& size, int components, const HuffmanTable& table) {
    put_big_16(out, 0xffd8);
    put_big_16(out, 0xffc4);  // the table
    put_big_16(out, static_cast<int>(2 + 1 + 16 + table.symbols.size()));
    out += '\0';
    for (int length = 1; length <= 16; ++length) out += static_cast<char>(table.count[length]);
    for (const int symbol : table.symbols) out += static_cast<char>(symbol);
    put_big_16(out, 0xffc3);  // the frame
    put_big_16(out, 8 + 3 * components);
    out += static_cast<char>(16);
    put_big_16(out, size.height);
    put_big_16(out, size.width / components);
    out += static_cast<char>(components);
    for (int c = 0; c < components; ++c) {
        out += static_cast<char>(c);
        out += static_cast<char>(0x11);
        out += '\0';
    }
    put_big_16(out, 0xffda);  // the scan
    put_big_16(out, 6 + 2 * components);
    out += static_cast<char>(components);
    for (int c = 0; c < components; ++c) {
        out += static_cast<char>(c);
        out += '\0';
    }
    out += static_cast<char>(1);  // predictor: the sample to the left
    out += '\0';
    out += '\0';
}

}  // namespace

std::string encode_lossless_jpeg(const cv::Mat1w& samples, int components) {
    CV_Assert(components >= 1 && components <= 4 && samples.cols % components == 0 && samples.cols > 0 &&
              samples.rows > 0);
    std::array<long long, categories + 1> frequency{};
    for (int row = 0; row < samples.rows; ++row)
        for (int column = 0; column < samples.cols; ++column)
            ++frequency[bits_of(difference_at(samples, components, row, column))];
    const HuffmanTable table = best_table(frequency);
    std::string out;
    out.reserve(samples.total() * 2);
    put_headers(out, samples.size(), components, table);
    BitWriter bits(out);
    for (int row = 0; row < samples.rows; ++row)
        for (int column = 0; column < samples.cols; ++column) {
            const int difference = difference_at(samples, components, row, column), category = bits_of(difference);
            bits.put(table.code[category], table.length[category]);
            // 32768 is the only difference of 16 bits, so no further bits follow.
            if (category == 0 || category == 16) continue;
            const int value = difference < 0 ? difference - 1 : difference;
            bits.put(static_cast<std::uint32_t>(value) & ((1u << category) - 1), category);
        }
    bits.finish();
    put_big_16(out, 0xffd9);
    return out;
}

}  // namespace optrel
