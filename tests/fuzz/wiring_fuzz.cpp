// Wiring files that somebody has changed: whatever they say, they are taken, and do
// what they do, or are refused as a whole; and so are changes of them.
#include "../wiring/support.hpp"

#include <courier/wiring/catalogue_file.hpp>
#include <courier/wiring/wiring_edit.hpp>

#include <cstddef>
#include <cstdint>
#include <cstdlib>
#include <stdexcept>
#include <string>

// As libFuzzer names it.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size);

namespace {

using namespace wired;

void set_off_everything(harbour& h) {
    for (int i = 0; i < 4; ++i) {
        h.sighted.publish(harbour::wyrm(i, 2 * i));
        h.raised.publish({static_cast<flag>(i)});
        h.hailed.publish_to(bell::north, {i});
        h.tide.set(i);
        h.pass(std::chrono::milliseconds(700));
    }
}

void load(const std::string& text) {
    harbour h;
    const courier::named_target bell = h.wires.target("north bell", bell::north);
    const courier::named_target lamp = h.wires.target("big lamp", lamp::big);
    if (!h.load(text).empty()) {
        if (!h.wires.wires().empty()) {
            std::abort(); // something of it was taken
        }
        return;
    }
    const std::size_t wires = h.wires.wires().size();
    set_off_everything(h);
    if (!h.load(text).empty() || h.change.kept != wires || h.change.added != 0) {
        std::abort(); // the same text is not the same
    }
    h.wires.switch_set("storm", true);
    set_off_everything(h);
}

void change(const std::string& text) {
    static const courier::catalogue has = harbour().wires.catalogue();
    try {
        courier::wiring_edit file("harbour.toml", text, has);
        const std::size_t count = file.wires().size();
        const std::size_t added = file.add("when = \"tide.level\"\ndo = \"horn.sound\"\n");
        if (file.wires().size() != count + 1) {
            std::abort();
        }
        for (const char* const key : {"note", "do", "if", "enabled"}) {
            for (std::size_t i = 0; i <= count && i < 2; ++i) { // each change reads the file again
                file.set(i, key, key == std::string("enabled") ? "false" : "'changed'");
            }
        }
        const std::vector<courier::edited_wire> changed = file.wires();
        for (std::size_t i = 0; i < changed.size() && i < 2; ++i) {
            if (changed[i].enabled || changed[i].note != "changed") {
                std::abort();
            }
        }
        file.erase(added, "note");
        for (std::size_t i = count + 1; i > 0; --i) {
            file.remove(i - 1);
        }
        if (!file.wires().empty()) {
            std::abort();
        }
    } catch (const courier::wiring_error&) {
        return;
    }
}

} // namespace

int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string text(reinterpret_cast<const char*>(data), size);
    load(text);
    change(text);
    return 0;
}
