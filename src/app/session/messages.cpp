// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/messages.h"
#include "window_words.h"

namespace optrel {

bool Messages::attempt(const std::function<void()>& work) {
    try {
        work();
        return true;
    } catch (const std::exception& error) {
        tell(q(error.what()), true);
        return false;
    }
}

}  // namespace optrel
