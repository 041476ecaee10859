// In place of the page, where it was not built.
#include "gateway/serve/page.hpp"

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::string_view page_document() noexcept {
    return {};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
