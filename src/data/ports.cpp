// SPDX-License-Identifier: MIT
#include <courier/data/detail/payload_door.hpp>
#include <courier/data/detail/read_address.hpp>
#include <courier/data/detail/sources.hpp>

#include "data/made_object.hpp"

#include <courier/detail/delivery/address_told.hpp>
#include <courier/detail/delivery/publish.hpp>
#include <courier/threads.hpp>

#include <charconv>
#include <system_error>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

template <class Number>
bool read_number(std::string_view text, Number& into) noexcept {
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), into);
    return error == std::errc{} && end == text.data() + text.size();
}

struct copy_maker {
    const value_copier& by;
    const void* of;
    [[nodiscard]] void* make() const { return by.copy(of); }
    void destroy(void* copy) const noexcept { by.destroy(copy); }
};

} // namespace

bool read_address(const value_type& type, std::string_view text, void* into) {
    plain_value read;
    switch (type.kind) {
    case value_kind::text:
        read.text = text;
        return write_plain(type, into, read);
    case value_kind::integer:
        return read_number(text, read.integer) && write_plain(type, into, read);
    case value_kind::truth:
        read.truth = text == "1";
        return (read.truth || text == "0") && write_plain(type, into, read);
    case value_kind::natural:
        return read_number(text, read.natural) && write_plain(type, into, read);
    case value_kind::enumeration:
        for (const enum_value& one : type.values) {
            if (one.name == text) {
                read.integer = one.value;
                return write_plain(type, into, read);
            }
        }
        return read_number(text, read.integer) && write_plain(type, into, read);
    default:
        return false;
    }
}

port_door::port_door(const port& to, std::string_view as) : core_(*to.core), ops_(to.ops), as_(as) {
    name = core_->name;
    type = ops_->kind->name;
    fields = ops_->kind->fields;
    has_address = ops_->address != nullptr;
}

bool port_door::takes_address(std::string_view address) const {
    if (address.empty() || !has_address) {
        return address.empty();
    }
    const made_object to(*ops_->address->maker);
    return read_address(*ops_->address->type, address, to.get());
}

receipt port_door::publish(const void* payload, std::string_view address, std::source_location where) const {
    const held core = core_; // a handler may end this
    if (core->closed) {
        return receipts::made(0, receipt_closed);
    }
    if constexpr (checked_build) {
        check_use(*core, "published on", where);
    }
    const std::string own = as_;
    const std::string* const publisher = own.empty() ? nullptr : &own;
    if (address.empty()) {
        return (core->work & work_noted) != 0 ? deliver_as(*core, payload, where, {publisher, {}})
                                              : detail::publish(*core, payload, where);
    }
    const address_ops& whom = *ops_->address;
    const made_object to(*whom.maker);
    return read_address(*whom.type, address, to.get()) ? whom.publish(*core, to.get(), payload, where, publisher)
                                                       : receipt{};
}

value_door::value_door(const port& to) : core_(*to.core), of_(to) {
    name = core_->name;
    type = to.value->type;
    fields = to.value->as_field;
    is_value = true;
}

receipt value_door::publish(const void* payload, std::string_view, std::source_location where) const {
    if (!core_->closed) {
        const port of = of_; // a handler may end this
        const copy_maker copies{*of.value->copier, payload};
        const made_object next(copies);
        of.value->set(of.source, next.get(), where);
    }
    return {};
}

bool has_door(const port& to) noexcept {
    const bool can_fill =
        to.ops->kind->is_empty || (to.ops->kind->fields != nullptr && to.ops->kind->fields->can_write);
    const address_ops* const whom = to.ops->address;
    return to.ops->maker != nullptr && can_fill &&
           (whom == nullptr || (whom->type != nullptr && whom->maker != nullptr));
}

bool describe(const port& source, shown_source& what) {
    const payload_kind& kind = *source.ops->kind;
    what.name = source.core->name;
    if (const value_ops* const value = source.value; value != nullptr) {
        what.type = value->type;
        what.state = value->value;
        what.keeps_latest = true;
        return value->value->kind != value_kind::other;
    }
    what.type = kind.name;
    what.fields = kind.fields;
    what.keeps_latest = source.core->kept != nullptr && source.ops->address == nullptr;
    what.address_type = source.ops->address != nullptr ? source.ops->address->name : std::string_view();
    return kind.is_empty || kind.fields != nullptr;
}

void subscribe_port(subscriber& in, const port& source, payload_taker& to, std::source_location where) {
    if (const value_ops* const value = source.value; value != nullptr) {
        to.take(value->look(source.source), {});
        in.subscribe(
            port_source(source),
            [&to, value, of = source.source](const some_payload& p) {
                to.take(value->after != nullptr ? value->after(&p) : value->look(of), {});
            },
            {}, where);
        return;
    }
    const address_ops* const whom = source.ops->address;
    if (whom == nullptr) {
        in.subscribe(
            port_source(source), [&to](const some_payload& p) { to.take(&p, {}); }, {.retained = true}, where);
        return;
    }
    tell_addresses(*source.core);
    in.subscribe(
        port_source(source),
        [&to, write = whom->write](const some_payload& p) {
            const void* const address = address_here();
            to.take(&p, address != nullptr ? address_label{address, write} : address_label{});
        },
        {}, where);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
