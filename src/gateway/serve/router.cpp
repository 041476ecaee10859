// SPDX-License-Identifier: MIT
#include "gateway/serve/router.hpp"

#include "gateway/ask/by_name.hpp"
#include "gateway/serve/answers.hpp"
#include "gateway/serve/page.hpp"
#include "gateway/serve/stream_reader.hpp"

#include <courier/detail/base/nesting.hpp>

#include <nlohmann/json.hpp>

#include <exception>
#include <optional>
#include <string>
#include <string_view>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

using httplib::Request;
using httplib::Response;
using nlohmann::json;

/// What all answers say to browsers.
void set_headers(gateway_core& core, const Request& request, Response& response) {
    response.set_header("X-Content-Type-Options", "nosniff");
    response.set_header("Referrer-Policy", "no-referrer");
    response.set_header("X-Frame-Options", "SAMEORIGIN");
    const std::string origin = core.door.allowed_origin(request);
    if (origin.empty()) {
        response.set_header("Cross-Origin-Resource-Policy", "same-origin");
    } else {
        response.set_header("Access-Control-Allow-Origin", origin);
        response.set_header("Vary", "Origin");
    }
}

// What a browser asks before a page from elsewhere may send something.
void answer_beforehand(gateway_core& core, const Request& request, Response& response) {
    if (!core.door.allowed_origin(request).empty()) {
        response.set_header("Access-Control-Allow-Methods", "GET, POST");
        response.set_header("Access-Control-Allow-Headers", "Authorization, Content-Type, Last-Event-ID");
        response.set_header("Access-Control-Max-Age", "600");
    }
    response.status = 204;
}

std::string why_not(gateway_code why) {
    switch (why) {
    case gateway_code::wrong_token:
        return "what changes something, and the wiring, needs 'Authorization: Bearer TOKEN', with the token that the "
               "game has told";
    case gateway_code::wrong_host:
        return "this is not a name of the gateway; add it to gateway_options::hosts";
    case gateway_code::foreign_origin:
        return "a page from elsewhere may not ask; name its origin in gateway_options::origins";
    case gateway_code::wrong_type:
        return "the body has to be JSON, and to say so: 'Content-Type: application/json'";
    case gateway_code::too_many_requests:
        return "there are more requests than gateway_options::requests_per_second allows; wait a second";
    case gateway_code::wrong_method:
        return "this method is not supported; use GET or POST";
    default:
        return "it is too large; see gateway_options::largest_body";
    }
}

void answer_get(gateway_core& core, const Request& request, Response& response) {
    const std::string& path = request.path;
    if (path == "/events") {
        answer_with_values(core, request, response);
    } else if (path == "/run") {
        answer_with_run(core, request, response);
    } else if (path == "/catalogue") {
        send(core, response, catalogue_of(core, catalogue_form::document));
    } else if (path == "/client.js") {
        send(core, response, catalogue_of(core, catalogue_form::script));
    } else if (path == "/client.d.ts") {
        send(core, response, catalogue_of(core, catalogue_form::types));
    } else if (constexpr std::string_view values = "/values/"; path.starts_with(values)) {
        send(core, response, value_of(core, path.substr(values.size())));
    } else if (path == "/metrics") {
        send(core, response, metrics_of(core));
    } else if (path == "/findings") {
        send(core, response, findings_of(core));
    } else if (path == "/about") {
        send(core, response, about(core));
    } else if (path == "/wiring" && core.wires.is_open()) {
        send(core, response, core.wires.look());
    } else if (path == "/recording" && core.has_recording.load(std::memory_order_acquire)) {
        send(core, response, {200, "application/gzip", core.recording, {}});
    } else if (path == "/page") {
        response.set_header("Content-Security-Policy", std::string(page_policy()));
        send(core, response, page_reply());
    } else if (path == "/favicon.ico" && core.options.folder.empty()) {
        response.status = 204; // browsers ask for it unasked
    } else if (path == "/" && core.options.folder.empty()) {
        response.set_redirect("/page");
    } else {
        send_file(core, response, path);
    }
}

template <class Ask>
reply in_game(gateway_core& core, Ask ask) {
    std::optional<reply> made = core.calls.ask(std::move(ask));
    return made ? std::move(*made)
                : refuse(gateway_code::not_answered,
                         "the game did not answer in time; check whether it was carried out before you try again");
}

reply answer_post(gateway_core& core, const Request& request) {
    if (is_too_deep(request.body, text_format::as_json)) {
        return refuse(gateway_code::malformed, "lists and objects of the body lie more than " +
                                                   std::to_string(deepest_nesting) + " deep in one another");
    }
    json body = json::parse(request.body, nullptr, false);
    if (body.is_discarded()) {
        return refuse(gateway_code::malformed, "the body is not JSON");
    }
    const std::string& path = request.path;
    constexpr std::string_view actions = "/actions/";
    constexpr std::string_view channels = "/channels/";
    constexpr std::string_view wiring = "/wiring/";
    if (path.starts_with(actions)) {
        return in_game(core, [&core, what = path.substr(actions.size()), own = std::move(body)] {
            return call_by_name(core.accepted, what, own);
        });
    }
    if (path.starts_with(channels)) {
        return in_game(core, [&core, what = path.substr(channels.size()), at = request.get_param_value("at"),
                              own = request.body] { return publish_by_name(core.accepted, what, at, own); });
    }
    if (path.starts_with(wiring) && core.wires.is_open()) {
        return core.wires.ask(std::string_view(path).substr(wiring.size()), body);
    }
    return refuse(gateway_code::unknown_path, "there are /actions/NAME and /channels/NAME to post to");
}

} // namespace

void set_routes(http_server& server, gateway_core& core) {
    using handled = httplib::Server::HandlerResponse;
    server.set_pre_routing_handler([&core](const Request& request, Response& response) {
        set_headers(core, request, response);
        std::optional<gateway_code> why = core.door.objection(request);
        const std::string length = request.get_header_value("Content-Length");
        if (!why && !length.empty() && (length.size() > 12 || std::stoull(length) > core.options.largest_body)) {
            why = gateway_code::too_large;
        }
        if (why) {
            send(core, response, refuse(*why, why_not(*why)));
        } else if (request.method == "OPTIONS") {
            answer_beforehand(core, request, response);
        } else if (request.method == "POST") {
            return handled::Unhandled; // until its body is there
        } else {
            answer_get(core, request, response);
        }
        return handled::Handled;
    });
    server.Post(".*", [&core](const Request& request, Response& response) {
        send(core, response, answer_post(core, request));
    });
    server.set_exception_handler([&core](const Request&, Response& response, const std::exception_ptr&) {
        send(core, response, refuse(gateway_code::malformed, "the request could not be carried out"));
    });
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
