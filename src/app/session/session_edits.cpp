// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/session_edits.h"

#include <algorithm>
#include <unordered_map>

namespace optrel {
namespace {

/// Entries of `a` that `b` lacks or that differ.
template <class T>
std::vector<T> lacking(const std::vector<T>& a, const std::vector<T>& b) {
    std::unordered_map<std::string, const T*> there;
    for (const T& t : b) there[id_of(t)] = &t;
    std::vector<T> out;
    for (const T& t : a)
        if (const auto it = there.find(id_of(t)); it == there.end() || !(*it->second == t)) out.push_back(t);
    return out;
}

template <class T>
void exchange(std::vector<T>& list, const std::vector<T>& in, const std::vector<T>& out) {
    for (const T& t : out) {
        // An entry with the same id keeps its position.
        const auto next = std::find_if(in.begin(), in.end(), [&](const T& n) { return id_of(n) == id_of(t); });
        const auto there = std::find_if(list.begin(), list.end(), [&](const T& l) { return id_of(l) == id_of(t); });
        if (there == list.end()) continue;
        if (next == in.end())
            list.erase(there);
        else
            *there = *next;
    }
    for (const T& t : in)
        if (std::none_of(list.begin(), list.end(), [&](const T& l) { return id_of(l) == id_of(t); })) list.push_back(t);
}

}  // namespace

DraftEntry::DraftEntry(std::function<const Revision&()> draft, std::function<bool(const Revision&)> put,
                       const QString& what, const Revision& before, const Revision& after)
    : QUndoCommand(what),
      draft_(std::move(draft)),
      put_(std::move(put)),
      before_tiers_(lacking(before.tiers, after.tiers)),
      after_tiers_(lacking(after.tiers, before.tiers)),
      before_sets_(lacking(before.sets, after.sets)),
      after_sets_(lacking(after.sets, before.sets)) {}

void DraftEntry::apply(const std::vector<Tier>& in, const std::vector<Tier>& out, const std::vector<PinSet>& sets_in,
                       const std::vector<PinSet>& sets_out) {
    Revision next = draft_();
    exchange(next.tiers, in, out);
    exchange(next.sets, sets_in, sets_out);
    setObsolete(!put_(next));
}

}  // namespace optrel
