// The table of lines in docs/recordings.md, from the descriptions of the records.
//   record_table FILE            exits with 1 when the file's table is another one
//   record_table --write FILE    puts it there
#include "recording/records.hpp"

#include <cstdio>
#include <fstream>
#include <iterator>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

namespace {

namespace d = courier::detail;

constexpr std::string_view begin_mark = "<!-- the table of lines begins -->\n";
constexpr std::string_view end_mark = "<!-- the table of lines ends -->\n";

std::string text;

void row(std::string_view line, std::string_view member, std::string_view when, std::string_view says) {
    for (const std::string_view cell : {line, member, when, says}) {
        text += cell.empty() ? "| " : "| " + std::string{cell} + " ";
    }
    text += "|\n";
}

/// Visits a record and writes a row for each member.
struct rows {
    std::string prefix = {};

    void operator()(d::from_source, std::string_view) const { beside("source", "always", "the ledger's name"); }
    void operator()(d::own_id, std::uint64_t) const { beside("id", "always", "the event's number, as text"); }
    void operator()(const d::of_event& attribute, std::uint64_t) const {
        beside(attribute.key, "if known", "the number of the event in whose handling it was made, as text");
    }
    void operator()(const d::as_duration& attribute, std::int64_t) const {
        beside(attribute.key, "always", "an ISO 8601 duration");
    }
    void operator()(const d::channel_link&) const { channel(); }
    void operator()(const d::new_channel&) const { channel(); }

    template <class Member>
    void operator()(const d::field& of, const Member&) const {
        member(of);
    }
    template <d::has_data T>
    void operator()(const d::field& of, const std::vector<T>&) const {
        member(of);
        const rows inner{prefix + std::string{of.key} + "[]."};
        const T one;
        d::visit_data(one, inner);
    }
    void operator()(const d::code_place&) const {
        member(d::code_place::at_field);
        member(d::code_place::by_field);
    }
    void operator()(const d::turn_list&) const {
        member(d::turn_list::heard);
        member(d::turn_list::missed);
        member(d::turn_list::took);
    }
    void operator()(const d::packed_payload&) const { member(d::packed_payload::payload); }
    void operator()(const d::bytes_left_out&) const { member(d::bytes_left_out::left_out); }

private:
    static void channel() {
        beside(d::channel_link::number_key, "always",
               "the channel's number; channels of one name and different payloads have two");
        beside("subject", "if it has a name", "the channel's name");
    }
    static void beside(std::string_view key, std::string_view when, std::string_view says) {
        row("", std::string{key} + ", beside `data`", when, says);
    }
    void member(const d::field& of) const {
        row("", "`" + prefix + std::string{of.key} + "`", of.is_always_there ? "always" : "if set", of.says);
    }
};

std::string table() {
    text.clear();
    row("line: `wired-courier.` …", "member of `data`", "there", "it says");
    text += "|---|---|---|---|\n";
    d::all_records::any([]<class Record>(std::type_identity<Record>) {
        if constexpr (!Record::type.empty()) {
            row("`" + std::string{Record::type} + "`", "", "", Record::says);
            const Record one;
            const rows with;
            d::visit_record(one, with);
        }
        return false;
    });
    return text;
}

int fail(const std::string& what) {
    std::fprintf(stderr, "record_table: %s\n", what.c_str());
    return 1;
}

} // namespace

int main(int count, char** arguments) {
    const std::vector<std::string_view> all(arguments + 1, arguments + count);
    const bool writes = all.size() == 2 && all[0] == "--write";
    if (all.empty() || all.size() > 2 || (all.size() == 2 && !writes)) {
        return fail("usage: record_table [--write] FILE");
    }
    const std::string name{all.back()};
    std::ifstream file(name);
    std::string whole{std::istreambuf_iterator<char>(file), {}};
    const std::size_t begin = whole.find(begin_mark);
    const std::size_t end = whole.find(end_mark);
    if (begin == std::string::npos || end == std::string::npos) {
        return fail("there is no table of lines in " + name + ", as its marks are missing");
    }
    const std::size_t from = begin + begin_mark.size();
    const std::string wanted = "\n" + table() + "\n";
    if (whole.substr(from, end - from) == wanted) {
        return 0;
    }
    if (!writes) {
        return fail("the table of lines in " + name + " is not as the records are; run record_table --write " + name);
    }
    whole.replace(from, end - from, wanted);
    std::ofstream(name) << whole;
    return 0;
}
