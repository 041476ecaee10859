// SPDX-License-Identifier: MIT
#include <courier/query.hpp>

#include <courier/fault.hpp>

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

// The one answerer that is not the default.
const slot* answerer_of(const channel_core& core) noexcept {
    for (const stage_list* list = core.lists; list != nullptr; list = list->next) {
        for (std::uint32_t i = 0; i < list->size; ++i) {
            if (!is_gone(list->entries[i]) && list->place != when_nobody_answers) {
                return list->slots[i];
            }
        }
    }
    return nullptr;
}

} // namespace

void query_base::report_second(std::source_location where) const {
    const slot* const first = answerer_of(*core_);
    const std::string who = first->owner != nullptr ? " by '" + first->owner->name + "'" : std::string{};
    raise(fault_code::second_answerer, severity::refused,
          "second answerer refused: query '" + core_->name + "' is answered already" + who + ", from " +
              place(first->where),
          "end that one first, or let the question say `static constexpr auto answered = "
          "courier::answering::in_order;`",
          where);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
