// SPDX-License-Identifier: GPL-3.0-or-later
#include "large_studio.h"

#include <fmt/format.h>

#include <cmath>
#include <fstream>
#include <random>

#include "optics/lens_text.h"

namespace optrel::bench {

LargeStudio large_studio(int bodies, int tiers, int frames) {
    LargeStudio s;
    std::mt19937 random(7);
    const int models = 12, lenses = 60;
    for (int i = 0; i < models; ++i)
        s.entries.models.push_back(
            {fmt::format("Maker Model {}", i), "Maker", fmt::format("Model {}", i), 6000, 4000, 5.9, "RGGB", "", ""});
    for (int i = 0; i < bodies; ++i) {
        Body b;
        b.maker = "Maker";
        b.model = fmt::format("Model {}", i % models);
        b.serial = fmt::format("{:06}", 1000 + i);
        b.name = fmt::format("Stand {}", i);
        b.width = 6000;
        b.height = 4000;
        b.pitch_um = 5.9;
        b.id = id_for(b);
        s.entries.bodies.push_back(b);
    }
    for (int i = 0; i < lenses; ++i) {
        LensEntry l;
        l.lens = fmt::format("Lens {}mm f/2.8", 20 + i);
        l.serial = fmt::format("L{:04}", i);
        l.focal_min_mm = l.focal_max_mm = 20 + i;
        l.id = id_for(l);
        s.entries.lenses.push_back(l);
    }
    for (int i = 0; i < frames; ++i) {
        const Body& b = s.entries.bodies[random() % bodies];
        const LensEntry& l = s.entries.lenses[random() % lenses];
        FrameRecord f;
        f.path = fmt::format("/studio/shoots/{:03}/frame{:06}.dng", i / 500, i);
        Metadata m = f.metadata;
        m.maker = b.maker;
        m.model = b.model;
        m.body_serial = b.serial;
        m.lens = l.lens;
        m.lens_serial = l.serial;
        m.focal_mm = l.focal_min_mm;
        m.aperture = random() % 2 ? 4 : 8;
        m.iso = 100 << (random() % 8);
        m.width = 6000;
        m.height = 4000;
        m.pitch_um = 5.9;
        m.time = fmt::format("2026:03:{:02} 12:00:00", 1 + i % 28);
        f.metadata = m;
        f.size = i;
        f.modified = 1;
        s.frames.push_back(f);
    }
    for (int i = 0; i < tiers; ++i) {
        Tier t;
        t.id = fmt::format("t{:05}", i);
        const Body& b = s.entries.bodies[i % bodies];
        if (i == 0) {
            t.scope = Scope::studio;
        } else if (i <= models) {
            t.scope = Scope::model;
            t.target = s.entries.models[i - 1].id;
        } else {
            t.scope = Scope::body;
            t.target = b.id;
            if (i >= bodies + models) t.iso_span = {{100.0 * (1 << (i / bodies) % 3), 800.0 * (1 << (i / bodies) % 3)}};
            if (i >= 3 * bodies) {
                t.lens_condition = LensCondition::model;
                t.lens = s.entries.lenses[i % lenses].lens;
            }
        }
        t.name = describe_conditions(t);
        const Field fields[] = {Field::exposure, Field::luminance_noise, Field::sharpening_amount, Field::colour_noise};
        for (int f = 0; f < 3; ++f) {
            Pin pin = Pin::constant({double(i % 4), ""});
            if ((i + f) % 3 == 0) pin.knots = {{100, {double(i % 4), ""}}, {3200, {4, ""}}};
            t.pins[fields[(i + f) % 4]] = pin;
        }
        s.revision.tiers.push_back(t);
    }
    return s;
}

void make_files(LargeStudio& studio, const std::filesystem::path& folder) {
    for (std::size_t i = 0; i < studio.frames.size(); ++i) {
        const std::filesystem::path in = folder / fmt::format("{:04}", i / 200);
        if (i % 200 == 0) std::filesystem::create_directories(in);
        studio.frames[i].path = in / fmt::format("F{:06}.dng", i);
        std::ofstream(studio.frames[i].path.path()) << i;
    }
}

void write_store(const LargeStudio& studio, const std::filesystem::path& folder) {
    if (std::filesystem::exists(folder / "store.sqlite")) return;
    Store store(folder, Access::begin);
    RegisterImport import;
    import.models = studio.entries.models;
    import.bodies = studio.entries.bodies;
    import.lenses = studio.entries.lenses;
    store.registry().edit(store.registry().edit_for(import), "bench");
    store.frames().put(studio.frames);
    store.baselines().change_draft([&](Revision& draft) { draft = studio.revision; });
}

}  // namespace optrel::bench
