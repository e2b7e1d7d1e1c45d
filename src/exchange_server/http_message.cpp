// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange_server/http_message.h"

#include <nlohmann/json.hpp>

#include "base/json_text.h"

namespace optrel {

HttpAnswer http_refusal(int status, const std::string& why) {
    return {status, "application/json",
            nlohmann::json{{"why", why}}.dump(-1, ' ', true, nlohmann::json::error_handler_t::replace)};
}

}  // namespace optrel
