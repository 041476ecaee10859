// SPDX-License-Identifier: MIT
#include "gateway/serve/answers.hpp"

#include <courier/audit.hpp>
#include <courier/data/json.hpp>
#include <courier/wiring/catalogue_file.hpp>
#include <courier/wiring/client.hpp>
#include <courier/wiring/wiring_audit.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

reply not_answered() {
    return refuse(gateway_code::not_answered, "the game did not answer in time; try again");
}

} // namespace

void send(gateway_core& core, httplib::Response& response, const reply& what) {
    if (what.refused) {
        core.counts.refuse(*what.refused);
    } else {
        core.counts.requests.fetch_add(1, std::memory_order_relaxed);
    }
    response.status = what.status;
    response.set_header("Cache-Control", "no-store");
    if (what.status == 401) {
        response.set_header("WWW-Authenticate", "Bearer");
    }
    if (what.status == 429 || what.status == 503) {
        response.set_header("Retry-After", "1");
    }
    response.set_content(what.body, what.type);
}

reply findings_of(gateway_core& core) {
    if (core.has_recording.load(std::memory_order_acquire)) {
        return {200, "application/json", core.recorded_findings, {}};
    }
    const std::shared_ptr<const books> now = core.latest_books.get();
    if (now == nullptr) {
        return not_answered();
    }
    return {200, "application/json", to_json(audit(*now)), {}};
}

reply about(gateway_core& core) {
    return as_reply({{"name", core.options.name},
                     {"live", !core.has_recording.load(std::memory_order_acquire)},
                     {"run", core.has_run.load(std::memory_order_acquire)},
                     {"wiring", core.wires.is_open()}});
}

reply catalogue_of(gateway_core& core, catalogue_form form) {
    const std::shared_ptr<const catalogue> now = core.latest_catalogue.get();
    if (now == nullptr) {
        return not_answered();
    }
    switch (form) {
    case catalogue_form::script:
        return {200, "text/javascript; charset=utf-8", client_script(*now), {}};
    case catalogue_form::types:
        return {200, "text/plain; charset=utf-8", client_types(*now), {}};
    default:
        return {200, "application/json", to_asyncapi(*now), {}};
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
