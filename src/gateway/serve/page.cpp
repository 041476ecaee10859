// SPDX-License-Identifier: MIT
#include "gateway/serve/page.hpp"

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::string_view page_policy() noexcept {
    return "default-src 'none'; script-src 'unsafe-inline' 'wasm-unsafe-eval'; style-src 'unsafe-inline'; connect-src "
           "'self' data:; "
           "img-src data:; frame-ancestors 'none'; base-uri 'none'; form-action 'none'";
}

reply page_reply() {
    const std::string_view page = page_document();
    return page.empty() ? refuse(gateway_code::unknown_path,
                                 "this build has no page: it was made without npm or the packages of "
                                 "scripts/page_packages.txt, or with WIRED_COURIER_BUILD_PAGE off")
                        : reply{200, "text/html; charset=utf-8", std::string(page), {}};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
