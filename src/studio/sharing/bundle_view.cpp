// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/sharing/bundle_view.h"

namespace optrel {

namespace {

MeasurementSource source_of(const BundleView& view) {
    return {view.way, view.source, view.bundle.key, view.signer, "", "", view.standing};
}

}  // namespace

std::string to_string(UnpackedPart::Stand stand) {
    switch (stand) {
        case UnpackedPart::Stand::fresh: return "new";
        case UnpackedPart::Stand::same: return "here already";
        case UnpackedPart::Stand::differs: return "differs";
        default: return "cannot be used";
    }
}

std::string BundleView::origin() const { return describe(source_of(*this)); }
std::string BundleView::source_words() const { return named_source(source_of(*this)); }

}  // namespace optrel
