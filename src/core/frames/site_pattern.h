// SPDX-License-Identifier: GPL-3.0-or-later
// Values that repeat over the mosaic of a sensor, such as its colour filter or its black levels.
#pragma once

#include <array>
#include <cstddef>
#include <initializer_list>
#include <vector>

namespace optrel {

/// A value for each row and column, repeated every 1, 2 or 6 rows and columns.
template <class Value>
class SitePattern {
public:
    using Two = std::array<std::array<Value, 2>, 2>;
    static constexpr int largest = 6;

    SitePattern() = default;
    /// The same value everywhere.
    explicit SitePattern(Value everywhere) : period_(1) {
        for (Row& row : rows_) row.fill(everywhere);
    }
    /// Implicit, because nearly all sensors have two rows and columns.
    SitePattern(const Two& two) {
        for (int row = 0; row < largest; ++row)
            for (int column = 0; column < largest; ++column) set(row, column, two[index(row % 2)][index(column % 2)]);
    }
    /// Two rows of two values each.
    SitePattern(std::initializer_list<std::initializer_list<Value>> two)
        : SitePattern(Two{{{two.begin()->begin()[0], two.begin()->begin()[1]},
                           {two.begin()[1].begin()[0], two.begin()[1].begin()[1]}}}) {}
    /// `at(row, column)` gives the value; `period` is 1, 2 or 6.
    template <class At>
    SitePattern(int period, const At& at) : period_(period) {
        for (int row = 0; row < largest; ++row)
            for (int column = 0; column < largest; ++column) set(row, column, at(row % period, column % period));
    }

    int period() const { return period_; }
    /// `row` and `column` are not negative.
    Value at(int row, int column) const { return rows_[index(row % largest)][index(column % largest)]; }
    /// The values of a row, repeated to `largest` columns.
    const std::array<Value, largest>& row(int row) const { return rows_[index(row % largest)]; }

    /// The values of one period, row by row.
    std::vector<Value> values() const {
        std::vector<Value> out;
        for (int i = 0; i < period_ * period_; ++i) out.push_back(at(i / period_, i % period_));
        return out;
    }

    bool operator==(const SitePattern&) const = default;

private:
    using Row = std::array<Value, largest>;
    static std::size_t index(int i) { return static_cast<std::size_t>(i); }
    void set(int row, int column, Value value) { rows_[index(row)][index(column)] = value; }

    int period_ = 2;
    std::array<Row, largest> rows_{};
};

}  // namespace optrel
