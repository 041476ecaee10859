// What JSON is read into: a value in memory, or the shape of one, which is compared only.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/data/detail/kept_texts.hpp>
#include <courier/data/detail/shape.hpp>
#include <courier/data/value_shape.hpp>
#include <courier/detail/base/type_name.hpp>
#include <courier/detail/base/value_type.hpp>

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A value in memory, to be filled.
class typed_target {
public:
    typed_target(const value_type& type, void* value, kept_texts* texts) : type_(&type), value_(value), texts_(texts) {}

    [[nodiscard]] value_kind kind() const noexcept { return type_->kind; }
    [[nodiscard]] bool is_writable() const noexcept {
        return type_->can_write && (!type_->borrows || texts_ != nullptr);
    }
    [[nodiscard]] value_shape shape() const { return shape_of(*type_); }
    [[nodiscard]] std::optional<std::int64_t> value_named(const std::string& name) const {
        const auto* const found =
            std::find_if(type_->values.begin(), type_->values.end(), [&](const auto& v) { return v.name == name; });
        return found != type_->values.end() ? std::optional(found->value) : std::nullopt;
    }
    [[nodiscard]] bool write(const plain_value& what) const { return write_plain(*type_, value_, what); }
    [[nodiscard]] bool write_text(const std::string& text) const {
        return type_->assign(value_, type_->borrows ? texts_->keep(text) : std::string_view(text));
    }
    /// Whether there is a word for null: an empty optional, or a view of no text.
    [[nodiscard]] bool write_nothing() const {
        if (kind() == value_kind::optional) {
            type_->drop(value_);
            return true;
        }
        return kind() == value_kind::other || (type_->borrows && type_->assign(value_, std::string_view()));
    }
    [[nodiscard]] typed_target held() const { return {*type_->inner, type_->hold(value_), texts_}; }

    template <class Fill>
    void items(std::size_t count, Fill fill) const {
        struct next_item {
            Fill& fill;
            const value_type& type;
            kept_texts* texts;
        } next{fill, *type_->inner, texts_};
        type_->clear(value_);
        for (std::size_t i = 0; i < count; ++i) {
            type_->add(value_, &next, [](void* context, void* item) {
                const auto& known = *static_cast<const next_item*>(context);
                known.fill(typed_target(known.type, item, known.texts));
                return true;
            });
        }
    }

    /// The fields of a struct.
    class field_list {
    public:
        field_list(const field_table& table, void* object, kept_texts* texts)
            : table_(&table), places_(table.entries.size()), texts_(texts) {
            table.locate(object, places_.data());
        }
        [[nodiscard]] std::size_t size() const noexcept { return places_.size(); }
        [[nodiscard]] std::string_view name(std::size_t i) const { return table_->entries[i].name; }
        [[nodiscard]] bool has_default(std::size_t i) const { return table_->entries[i].has_default; }
        [[nodiscard]] typed_target operator[](std::size_t i) const {
            return {*table_->entries[i].type, const_cast<void*>(places_[i]), texts_};
        }
        [[nodiscard]] std::string type() const { return plain_type_name(table_->type); }

    private:
        const field_table* table_;
        std::vector<const void*> places_;
        kept_texts* texts_;
    };
    [[nodiscard]] field_list fields() const { return {*type_->fields, value_, texts_}; }

private:
    const value_type* type_;
    void* value_;
    kept_texts* texts_;
};

/// A shape, which is compared only.
class shaped_target {
public:
    explicit shaped_target(const value_shape& shape) : shape_(&shape) {}

    [[nodiscard]] value_kind kind() const noexcept { return shape_->kind; }
    [[nodiscard]] bool is_writable() const noexcept { return kind() != value_kind::other; }
    [[nodiscard]] const value_shape& shape() const noexcept { return *shape_; }
    [[nodiscard]] std::optional<std::int64_t> value_named(const std::string& name) const {
        const auto found = std::find(shape_->values.begin(), shape_->values.end(), name);
        return found != shape_->values.end() ? std::optional(found - shape_->values.begin()) : std::nullopt;
    }
    [[nodiscard]] bool write(const plain_value& what) const noexcept {
        switch (kind()) {
        case value_kind::integer:
            return what.integer >= shape_->least &&
                   (what.integer < 0 || static_cast<std::uint64_t>(what.integer) <= shape_->most);
        case value_kind::natural:
            return what.natural <= shape_->most;
        default:
            return true;
        }
    }
    [[nodiscard]] static bool write_text(const std::string&) noexcept { return true; }
    // A recorded null in a text is a view of no text; a text that owns what it holds was never null.
    [[nodiscard]] bool write_nothing() const noexcept {
        return kind() == value_kind::optional || kind() == value_kind::other || kind() == value_kind::text;
    }
    [[nodiscard]] shaped_target held() const { return shaped_target(shape_->inner.front()); }
    template <class Fill>
    void items(std::size_t count, Fill fill) const {
        for (std::size_t i = 0; i < count; ++i) {
            fill(held());
        }
    }

    class field_list {
    public:
        explicit field_list(const value_shape& of) : of_(&of) {}
        [[nodiscard]] std::size_t size() const noexcept { return of_->fields.size(); }
        [[nodiscard]] const std::string& name(std::size_t i) const { return of_->fields[i].name; }
        [[nodiscard]] bool has_default(std::size_t i) const { return of_->fields[i].has_default; }
        [[nodiscard]] shaped_target operator[](std::size_t i) const { return shaped_target(of_->fields[i].shape); }
        [[nodiscard]] const std::string& type() const noexcept { return of_->type; }

    private:
        const value_shape* of_;
    };
    [[nodiscard]] field_list fields() const { return field_list(*shape_); }

private:
    const value_shape* shape_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
