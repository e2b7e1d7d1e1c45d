// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/fleet/fingerprints.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/parallel.h"
#include "base/station.h"
#include "base/times.h"
#include "frames/metadata.h"
#include "sensor/fingerprint_kind.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

/// Throws Error(input) when a frame says that another body took it.
void require_body(const fs::path& path, const Metadata& m, const Body& body) {
    if (m.kind != FrameKind::raw)
        throw input_error(path.string() +
                          " is a rendered picture, in which the sensor's pattern was changed; use the raw file.");
    if (camera_name(m) != body.camera() ||
        (!m.body_serial.empty() && !body.serial.empty() && m.body_serial != body.serial))
        throw input_error(fmt::format("{} was taken with {}{}, not with {}; leave it out.", path.string(),
                                      camera_name(m), m.body_serial.empty() ? "" : " " + m.body_serial, body.label()));
}

struct Known {
    std::string body;
    Fingerprint print;
};

std::vector<Known> known_fingerprints(const Store& store) {
    std::vector<Known> out;
    for (const Measurement& m : store.measurements().current(fingerprint_kind())) {
        BodyFingerprint f = fingerprint_from_json(m.document, m.name);
        out.push_back({std::move(f.body), std::move(f.print)});
    }
    return out;
}

/// A fingerprint under a wrong name would name every later frame wrongly.
void require_own_sensor(const BodyFingerprint& learned, const std::vector<Known>& known, const Fleet& fleet,
                        OtherSensor other) {
    for (const Known& k : known) {
        const bool same = agreement_of(learned.print, k.print) >= fingerprint_threshold;
        const Body* body = fleet.body(k.body);
        if (k.body != learned.body && same)
            throw input_error(
                fmt::format("These flat fields show the sensor of {}, whose fingerprint is known; name that body, or "
                            "withdraw its fingerprint first.",
                            body ? body->label() : k.body));
        if (k.body == learned.body && !same && other == OtherSensor::refuse)
            throw input_error(
                fmt::format("These flat fields show another sensor than the fingerprint that {} has; check which body "
                            "took them, or say that it has a new sensor (--another-sensor).",
                            body ? body->label() : k.body));
    }
}

RecognisedFrame recognised(const fs::path& path, const std::vector<Known>& known) {
    RecognisedFrame out;
    out.frame = path;
    try {
        const FingerprintQuery query(read_raw(path), path.string());
        for (const Known& k : known) {
            if (!query.comparable(k.print)) continue;
            const double z = query.z(k.print);
            if (out.compared++ == 0 || z > out.z) {
                out.second = out.best;
                out.second_z = out.z;
                out.best = k.body;
                out.z = z;
            } else if (out.second.empty() || z > out.second_z) {
                out.second = k.body;
                out.second_z = z;
            }
        }
        if (out.compared == 0)
            out.problem =
                fmt::format("No fingerprint of a sensor of the size of {} is known; learn one.", path.string());
        else if (out.z >= fingerprint_threshold && !out.second.empty() && out.second_z >= fingerprint_threshold)
            out.problem = fmt::format("{} fits both {} and {}: two entries of the register have one sensor.",
                                      path.string(), out.best, out.second);
        else if (out.z >= fingerprint_threshold)
            out.body = out.best;
    } catch (const Cancelled&) {
        throw;
    } catch (const std::exception& error) {
        out.problem = reason_for(path, error);
    }
    return out;
}

}  // namespace

LearnedFingerprint learn_fingerprint(Store& store, const std::string& body_id, const std::vector<fs::path>& frames,
                                     OtherSensor other, Progress& progress) {
    const auto fleet = store.registry().fleet();
    const Body* body = fleet->body(body_id);
    if (!body) throw input_error(fmt::format("The register has no body {}; claim or enter it first.", body_id));
    LearnedFingerprint out;
    BodyFingerprint learned{body->id, body->camera(), body->measured_serial(), {}, "", "", {}};
    FingerprintLearner learner;
    progress.start(static_cast<int>(frames.size()), "Reading flat fields");
    for (const fs::path& path : frames) {
        progress.check();
        try {
            const OpenedFrame frame(path);
            require_body(path, read_metadata(frame), *body);
            learner.add(read_raw(frame), path.string());
            learned.frames.push_back(path.filename().string());
        } catch (const Cancelled&) {
            throw;
        } catch (const std::exception& error) {
            out.problems.push_back(reason_for(path, error));
        }
        progress.step();
    }
    if (learner.frames() == 0 && !out.problems.empty()) throw input_error(out.problems.front());
    learned.print = learner.finished();
    require_own_sensor(learned, known_fingerprints(store), *fleet, other);
    learned.author = current_author();
    learned.time = utc_now();
    out.frames = learner.frames();
    out.agreement = learned.print.agreement;
    out.published = store.measurements().publish(fingerprint_kind(), fingerprint_to_json(learned), OtherSettings::drop);
    return out;
}

std::vector<RecognisedFrame> recognise_frames(const Store& store, const std::vector<fs::path>& frames,
                                              Progress& progress) {
    const std::vector<Known> known = known_fingerprints(store);
    if (known.empty())
        throw input_error("This store has no fingerprints; learn some with optrel-cli fingerprint learn.");
    std::vector<RecognisedFrame> out(frames.size());
    progress.start(static_cast<int>(frames.size()), "Comparing frames");
    parallel_for(static_cast<int>(frames.size()), [&](int i) {
        const SingleThreadScope one;
        progress.check();
        out[static_cast<std::size_t>(i)] = recognised(frames[static_cast<std::size_t>(i)], known);
        progress.step();
    });
    return out;
}

}  // namespace optrel
