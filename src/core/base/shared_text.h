// SPDX-License-Identifier: GPL-3.0-or-later
// Shared texts: equal texts are stored once, for example sidecars of frames with the same body and ISO.
#pragma once

#include <memory>
#include <mutex>
#include <string>
#include <string_view>
#include <unordered_map>

namespace optrel {

/// An immutable text that may be shared.
class SharedText {
public:
    SharedText() = default;
    SharedText(std::string text)  // NOLINT(google-explicit-constructor): it is used as a text is
        : text_(std::make_shared<const std::string>(std::move(text))) {}

    const std::string& text() const {
        static const std::string none;
        return text_ ? *text_ : none;
    }
    operator const std::string&() const { return text(); }  // NOLINT(google-explicit-constructor)
    bool empty() const { return text().empty(); }
    bool operator==(const SharedText& o) const { return text_ == o.text_ || text() == o.text(); }
    bool operator==(const std::string& o) const { return text() == o; }

private:
    std::shared_ptr<const std::string> text_;
};

/// Returns the same object for equal texts. Thread-safe. The texts may outlive the pool.
class TextPool {
public:
    SharedText of(std::string text) {
        const std::lock_guard<std::mutex> lock(mutex_);
        if (const auto there = texts_.find(text); there != texts_.end()) return there->second;
        SharedText kept(std::move(text));
        // The keys view into the stored texts.
        texts_.emplace(std::string_view(kept.text()), kept);
        return kept;
    }

private:
    std::mutex mutex_;
    std::unordered_map<std::string_view, SharedText> texts_;
};

}  // namespace optrel
