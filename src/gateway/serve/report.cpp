// SPDX-License-Identifier: MIT
#include <courier/gateway/report.hpp>

#include "data/base64.hpp"
#include "gateway/serve/packed_run.hpp"
#include "gateway/serve/page.hpp"

#include <courier/audit.hpp>
#include <courier/data/json.hpp>
#include <courier/gateway/gateway_fault.hpp>

#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

bool has_page() noexcept {
    return !detail::page_document().empty();
}

std::string report_of(const run& of, const audit_options& options) {
    constexpr std::string_view place = "<!--RECORDING-->";
    const std::string_view page = detail::page_document();
    const std::size_t at = page.find(place);
    if (at == std::string_view::npos) {
        throw gateway_error(gateway_code::no_page, "this build has no page, and a report is made of one", {},
                            "build with npm and the packages of scripts/page_packages.txt, and with "
                            "WIRED_COURIER_BUILD_PAGE on");
    }
    std::string made(page.substr(0, at));
    // Nothing is asked for from anywhere, whatever the page may hold.
    const std::size_t head = made.find("<head>") + std::string_view("<head>").size();
    made.insert(head, "\n<meta http-equiv=\"Content-Security-Policy\" content=\"default-src 'none'; script-src "
                      "'unsafe-inline' 'wasm-unsafe-eval'; style-src 'unsafe-inline'; img-src data:\">");
    made += R"(<script type="application/octet-stream" id="recording">)";
    made += detail::to_base64(detail::packed_run(of));
    made += R"(</script><script type="application/json" id="findings">)";
    for (const char c : to_json(audit(books_of(of), options))) {
        c == '<' ? made += "\\u003c" : made += c; // or the element could end there
    }
    made += "</script>";
    made += page.substr(at + place.size());
    return made;
}

WIRED_COURIER_NAMESPACE_END
