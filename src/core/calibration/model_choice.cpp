// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/model_choice.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <span>

#include "base/angle.h"
#include "base/error.h"
#include "base/median.h"
#include "base/parallel.h"
#include "base/words.h"
#include "calibration/reach.h"
#include "optics/lens_model_fit.h"

namespace optrel {
namespace {

/// The largest angle between the axis and a corner.
double largest_angle(const std::vector<View>& views) {
    double cosine = 1;
    for (const View& view : views) {
        const Eigen::Matrix3d r = view.pose.matrix();
        for (const ViewPoint& p : view.points) {
            if (p.rejected) continue;
            cosine = std::min(
                cosine, Vec3(r * Vec3(p.board_mm.x(), p.board_mm.y(), 0) + view.pose.translation).normalized().z());
        }
    }
    return std::acos(cosine);
}

struct Candidate {
    LensModelKind kind;
    int radial_terms;
};

/// The models to try, in ascending order of their number of terms.
std::vector<Candidate> candidates_for(double angle, const LensModel& first, bool unexplained,
                                      const ModelRequest& wish) {
    std::vector<Candidate> out;
    for (const LensModelKind kind : lens_forms()) {
        if (wish.kind && *wish.kind != kind) continue;
        for (const int terms : kind->worth_trying({angle, &*first.kind(), unexplained, wish.kind.has_value()}))
            out.push_back({kind, terms});
    }
    if (wish.radial_terms > 0 && !out.empty()) return {{*wish.kind, wish.radial_terms}};
    // The rational form comes after all polynomials, because it continues them.
    std::stable_sort(out.begin(), out.end(), [](const Candidate& a, const Candidate& b) {
        return a.kind->angular() != b.kind->angular() ? b.kind->angular()
                                                      : a.kind->angular() && a.radial_terms < b.radial_terms;
    });
    return out;
}

std::string said(std::span<const int> choices) {
    std::vector<std::string> numbers;
    for (const int choice : choices) numbers.push_back(fmt::format("{}", choice));
    return one_of(numbers);
}

}  // namespace

void check_wish(const ModelRequest& wish) {
    if (!wish.kind || wish.radial_terms == 0) return;
    const std::span<const int> choices = (*wish.kind)->term_choices();
    if (std::find(choices.begin(), choices.end(), wish.radial_terms) != choices.end()) return;
    throw usage_error(fmt::format("The {} model has {} radial terms, not {}; choose one of these numbers.",
                                  to_string(*wish.kind), said(choices), wish.radial_terms));
}

bool HeldOut::predicts_better_than(const HeldOut& smaller) const {
    if (weighted < 0.99 * smaller.weighted) return true;
    const std::size_t n = std::min(by_view.size(), smaller.by_view.size());
    if (n < 6 || !(weighted < 0.9995 * smaller.weighted)) return false;
    double mean = 0, square = 0;
    for (std::size_t i = 0; i < n; ++i) mean += (smaller.by_view[i] - by_view[i]) / n;
    for (std::size_t i = 0; i < n; ++i) square += std::pow(smaller.by_view[i] - by_view[i] - mean, 2) / (n - 1);
    return mean > 3.0 * std::sqrt(square / n);
}

std::string ModelTrial::name() const {
    return fmt::format("{}, {} term{}{}", to_string(kind), radial_terms, radial_terms == 1 ? "" : "s",
                       board_free ? ", chart shape" : "");
}

LensModel converted(const LensModel& model, LensModelKind kind, int radial_terms, double angle) {
    if (model.kind() == kind) return model;
    const std::vector<int> held = kind->held(radial_terms);
    std::vector<int> free;
    for (int k = 0; k < kind->radial_count(); ++k)
        if (std::find(held.begin(), held.end(), k) == held.end()) free.push_back(k);
    return fit_radial(
        kind, free, [&](double tangent) { return model.bent_radius(tangent); }, angle);
}

HeldOut held_out(const std::vector<View>& views, const PictureGeometry& geometry, const LensSolution& solution,
                 double floor_px, const Progress& progress) {
    HeldOut out;
    const int groups = std::min<int>(4, static_cast<int>(views.size()) - 2);
    if (groups < 2) return out;
    std::vector<double> sums(groups, 0), weighted(groups, 0);
    std::vector<int> counts(groups, 0), all(groups, 0);
    out.by_view.assign(views.size(), 0);
    parallel_for(groups, [&](int group) {
        progress.check();
        std::vector<View> used;
        std::vector<std::size_t> judged;
        for (std::size_t i = 0; i < views.size(); ++i)
            if (static_cast<int>(i) % groups == group)
                judged.push_back(i);
            else
                used.push_back(views[i]);
        LensSolution lens = solution;
        AdjustOptions options;
        options.floor_px = std::max(0.002, floor_px);
        options.iterations = 30;
        options.precision = 1e-7;
        constexpr double bound = 25;
        const bool solved = adjust(used, lens, geometry.middle(), options).has_value();
        for (const std::size_t v : judged) {
            View view = views[v];
            solve_pose(view, lens);
            double own = 0;
            int own_count = 0;
            for (const ViewPoint& p : view.points) {
                if (p.by_hand) continue;
                // Rejected corners count too; otherwise a model could win by rejecting. The bound keeps wrong corners
                // from deciding.
                own += !solved ? bound
                               : std::min(bound, (information_root(p.covariance, floor_px) * p.residual).squaredNorm());
                ++own_count;
                if (p.rejected) continue;
                sums[group] += p.residual.squaredNorm();
                ++counts[group];
            }
            weighted[group] += own;
            all[group] += own_count;
            out.by_view[v] = own_count ? own / own_count : 0;
        }
    });
    double sum = 0, bounded = 0;
    int count = 0, judged_points = 0;
    for (int g = 0; g < groups; ++g) {
        sum += sums[g];
        bounded += weighted[g];
        count += counts[g];
        judged_points += all[g];
    }
    if (count) {
        out.rms_px = std::sqrt(sum / count);
        out.weighted = bounded / judged_points;
    }
    return out;
}

namespace {

struct Solved {
    bool ok = false;
    LensSolution lens;
    std::vector<View> views;
    HeldOut unseen;
};

/// Solves the same views with several models, and judges each by frames that it did not see.
class Trials {
public:
    Trials(const std::vector<View>& views, const PictureGeometry& geometry, const Progress& progress)
        : fresh_(views), geometry_(geometry), progress_(progress) {
        // A larger model may fit corners that a smaller one rejects, so every candidate judges all corners.
        for (View& view : fresh_)
            for (ViewPoint& p : view.points) p.rejected = p.by_hand;
    }

    Solved solve_from(const LensSolution& from, bool board_free) const {
        Solved out;
        out.views = fresh_;
        SolveStart start;
        start.previous = from;
        start.previous->board_free = board_free;
        if (!board_free) start.previous->board = {};
        try {
            out.lens = solve_lens(out.views, geometry_, start, progress_);
            out.ok = !folds(out.lens, geometry_) && out.lens.radial_terms == from.radial_terms;
        } catch (const Cancelled&) {
            throw;
        } catch (const Error&) {
            // A model that does not fit at all is not a candidate.
        }
        return out;
    }

    /// All use the same floor, so that they can be compared.
    void judge(std::span<Solved> results, double floor_px) const {
        parallel_for(static_cast<int>(results.size()), [&](int i) {
            Solved& r = results[i];
            if (r.ok) r.unseen = held_out(r.views, geometry_, r.lens, floor_px, progress_);
        });
    }

private:
    std::vector<View> fresh_;
    const PictureGeometry& geometry_;
    const Progress& progress_;
};

double least_floor(double floor_px, std::span<const Solved> results) {
    for (const Solved& r : results)
        if (r.ok) floor_px = std::min(floor_px, r.lens.floor_px);
    return floor_px;
}

/// True when one candidate is preferred to another.
bool better(const Candidate& c, const HeldOut& own, const Candidate& t, const HeldOut& other) {
    if (c.kind->continues(*t.kind, c.radial_terms, t.radial_terms)) return own.weighted < other.weighted;
    const bool alike = c.kind == t.kind || (c.kind->angular() && t.kind->angular());
    // A polynomial of the angle fits every fisheye where corners were seen, but predicts none beyond them.
    if (alike && c.kind->designed() != t.kind->designed()) {
        const double even = 0.02;
        return own.weighted < (c.kind->designed() ? 1 + even : 1 - even) * other.weighted;
    }
    if (alike)
        return c.radial_terms == t.radial_terms ? own.weighted < other.weighted : own.predicts_better_than(other);
    // Another family of models must be better by more than one additional term would be.
    return own.weighted < 0.98 * other.weighted;
}

/// Solves all candidates from one lens, with a free or a flat board. `known`: solutions that exist already.
std::vector<Solved> solve_all(const std::vector<Candidate>& candidates, const Trials& trials, const Solved& known,
                              const LensSolution& from, double angle) {
    std::vector<Solved> results(candidates.size());
    parallel_for(static_cast<int>(candidates.size()), [&](int i) {
        const auto& [kind, terms] = candidates[i];
        if (known.ok && kind == known.lens.model.kind() && terms == known.lens.radial_terms) {
            results[i] = known;
            return;
        }
        LensSolution start = from;
        start.radial_terms = terms;
        start.model = converted(from.model, kind, terms, angle);
        results[i] = trials.solve_from(start, from.board_free);
    });
    return results;
}

/// -1 when no candidate is usable.
int best_of(const std::vector<Candidate>& candidates, const std::vector<Solved>& results) {
    int best = -1;
    for (int i = 0; i < static_cast<int>(results.size()); ++i)
        if (results[i].ok &&
            (best < 0 || better(candidates[i], results[i].unseen, candidates[best], results[best].unseen)))
            best = i;
    return best;
}

/// True when a model leaves residuals that the noise of the corners does not explain.
bool leaves_something(const LensSolution& lens, const std::vector<View>& views) {
    std::vector<double> own;
    for (const View& view : views)
        for (const ViewPoint& p : view.points) own.push_back(std::sqrt(p.covariance.trace() / 2));
    return lens.floor_px > 0.35 * median(own);
}

}  // namespace

ModelChoice choose_model(const std::vector<View>& views, const PictureGeometry& geometry, const LensSolution& first,
                         const ModelRequest& wish, const Progress& progress) {
    const double angle = largest_angle(views);
    const std::vector<Candidate> candidates = candidates_for(angle, first.model, leaves_something(first, views), wish);
    if (candidates.empty())
        throw input_error(fmt::format(
            "The chosen lens model cannot reach {:.0f} degrees from the axis, which the frames show; choose a fisheye "
            "model.",
            angle / degree));
    const Trials trials(views, geometry, progress);
    // With a bowed chart, models win that merely follow the bow; so the shape of the chart is tried before and
    // after.
    std::array<Solved, 2> boards;  // flat, shaped
    parallel_for(2, [&](int i) { boards[i] = trials.solve_from(first, i == 1); });
    double floor_px = least_floor(first.floor_px, boards);
    trials.judge(boards, floor_px);
    const auto& [flat, shaped] = boards;
    const bool bowed = shaped.ok && (!flat.ok || shaped.unseen.weighted < 0.99 * flat.unseen.weighted);
    LensSolution from = flat.ok ? flat.lens : first;
    if (bowed) from = shaped.lens;

    std::vector<Solved> results = solve_all(candidates, trials, bowed ? shaped : flat, from, angle);
    floor_px = least_floor(floor_px, results);
    trials.judge(results, floor_px);

    const int best = best_of(candidates, results);
    ModelChoice out;
    const auto note = [&](const Solved& r, const Candidate& c, bool taken) {
        out.trials.push_back({c.kind, c.radial_terms, r.lens.board_free, r.lens.rms_px, r.unseen, taken});
    };
    for (int i = 0; i < static_cast<int>(results.size()); ++i)
        if (results[i].ok) note(results[i], candidates[i], i == best);
    if (best < 0) {
        if (wish.kind)
            throw input_error(fmt::format(
                "The {} model does not fit these frames without folding back inside the picture; let Optrel choose the "
                "model.",
                to_string(*wish.kind)));
        return {first, views, held_out(views, geometry, first, first.floor_px, progress), {}};
    }
    Solved taken = std::move(results[best]);
    std::array<Solved, 1> other{trials.solve_from(taken.lens, !bowed)};
    if (other[0].ok) {
        trials.judge(other, floor_px);
        const double with_shape = (bowed ? taken : other[0]).unseen.weighted;
        const double without = (bowed ? other[0] : taken).unseen.weighted;
        const bool changes = (with_shape < 0.99 * without) != bowed;
        note(other[0], candidates[best], changes);
        if (changes) {
            for (ModelTrial& trial : out.trials) trial.taken = &trial == &out.trials.back();
            taken = std::move(other[0]);
        }
    }
    out.lens = taken.lens;
    out.views = std::move(taken.views);
    out.unseen = taken.unseen;
    return out;
}

}  // namespace optrel
