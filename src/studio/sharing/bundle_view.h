// SPDX-License-Identifier: GPL-3.0-or-later
// A bundle compared with the contents of a studio.
#pragma once

#include <string>
#include <vector>

#include "optics/profile.h"
#include "sharing/bundle.h"

namespace optrel {

/// One part of a bundle, compared with the studio.
struct UnpackedPart {
    enum class Stand {
        fresh,    ///< the studio has nothing like it
        same,     ///< the studio has it already
        differs,  ///< the studio has something else of the same name
        unusable  ///< it cannot be imported; `words` give the reason
    };
    BundleKind kind = BundleKind::set;
    std::string id, name;
    Stand stand = Stand::fresh;
    std::vector<std::string> words;  ///< differences, or remarks
    bool usable() const { return stand == Stand::fresh || stand == Stand::differs; }
    /// Whether importing replaces something. Measurements are added beside existing ones.
    bool replaces() const { return stand == Stand::differs && !kind.measurement() && kind != BundleKind::colours; }
};
std::string to_string(UnpackedPart::Stand stand);

struct BundleView {
    Bundle bundle;
    std::string way = "bundle";  ///< origin: "bundle" or "exchange"
    std::string source;          ///< title of the bundle, or address of the exchange
    Standing standing = Standing::not_signed;
    std::string signer;               ///< name of the key's owner in this studio, otherwise the owner's own name
    std::vector<UnpackedPart> parts;  ///< same order as the bundle's parts
    /// A sentence when the bundle comes from this studio and the studio's history no longer matches it.
    std::string history;
    /// Origin as text: "the bundle 'Seaweeds', signed by ...", with the trust in its key.
    std::string origin() const;
    /// The same without the trust, which may change.
    std::string source_words() const;
};

}  // namespace optrel
