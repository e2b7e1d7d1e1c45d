// SPDX-License-Identifier: GPL-3.0-or-later
// What a bundle would bring to a studio, and bringing it.
#pragma once

#include <map>
#include <string>
#include <utility>
#include <vector>

#include "store/store.h"
#include "travel/bundle.h"

namespace optrel {

/// One part of a bundle beside what the studio has.
struct UnpackedPart {
    enum class Stand {
        fresh,    ///< nothing here is like it
        same,     ///< it is here already
        differs,  ///< something else of its name is here
        unusable  ///< it cannot be taken; `words` say why
    };
    BundleKind kind = BundleKind::profile;
    std::string id, name;
    Stand stand = Stand::fresh;
    std::vector<std::string> words;  ///< what differs, or what there is to know of it
    bool usable() const { return stand == Stand::fresh || stand == Stand::differs; }
    /// Taking it does away with something that is here. Of profiles and claims each is kept beside the other.
    bool replaces() const {
        return stand == Stand::differs && kind != BundleKind::profile && kind != BundleKind::colours;
    }
};
std::string to_string(UnpackedPart::Stand stand);

struct BundleView {
    Bundle bundle;
    std::string way = "bundle";  ///< or "exchange", by which it came
    std::string source;          ///< its title, or the address of the exchange
    Standing standing = Standing::not_signed;
    std::string signer;               ///< as this studio calls the owner of its key, or else as they call themselves
    std::vector<UnpackedPart> parts;  ///< beside the bundle's
    /// A sentence where it comes from this very studio, whose history is not the one any more that it was packed from.
    std::string history;
    /// "the bundle 'Seaweeds', signed by ...", whom this studio trusts or not: where all of it comes from.
    std::string origin() const;
    /// The same without what the studio makes of it, which may change.
    std::string source_words() const;
};

/// A sentence where a bundle of this very studio tells of a row of its history that is not there as it was; else empty.
std::string fault_of_anchor(Store& store, const Bundle& bundle);

/// Reads every part, which changes nothing. A part that cannot be read or used is told and does not stop the others.
BundleView look_at(Store& store, Bundle bundle);

/// What of it somebody takes.
struct BundleChoice {
    std::vector<std::pair<BundleKind, std::string>> parts;  ///< kind and id
    std::map<std::string, std::string> set_names;           ///< under which sets are taken that are called otherwise
    bool replace = false;                                   ///< what is here gives way where they differ
    bool anyway = false;                                    ///< also of nobody, or with a key that was withdrawn
};
/// All that can be taken; with what replaces something, or without.
BundleChoice all_of(const BundleView& view, bool replace);

struct BundleTaken {
    std::vector<std::string> told;  ///< a sentence for each
    std::vector<Profile> profiles;  ///< as they are published here
};
/// Takes parts in, all or none: profiles are published, entries and claims stand in the register, sets, tiers and a
/// baseline in the draft. Each keeps where it came from. Throws Error(input), changing nothing, for a choice that names
/// what is not there, leaves out what a chosen part needs, would replace without having been asked to, or was made
/// before somebody else changed what it is about.
BundleTaken take_from(Store& store, const BundleView& view, const BundleChoice& choice, const std::string& author);

}  // namespace optrel
