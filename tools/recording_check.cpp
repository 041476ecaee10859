// SPDX-License-Identifier: MIT
#include "recording_check.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/replay.hpp>

#include <cstddef>
#include <map>

namespace tool {

namespace {

const courier::value_shape* shape_of(const courier::catalogue& all, const std::string& name) {
    if (const courier::channel_entry* const one = all.channel(name)) {
        return &one->payload;
    }
    const courier::action_entry* const one = all.action(name);
    return one != nullptr ? &one->parameters : nullptr;
}

} // namespace

std::vector<recording_misfit> misfits(const courier::run& recorded, const courier::catalogue& before,
                                      const courier::catalogue& after) {
    std::vector<recording_misfit> all;
    std::map<std::string, std::size_t> rows; // by channel, field and fault
    const auto count = [&](const std::string& key, const std::string& what) {
        const auto [row, is_new] = rows.try_emplace(key, all.size());
        if (is_new) {
            all.push_back({what, 0});
        }
        ++all[row->second].events;
    };
    for (const courier::recorded_event& event : recorded.events) {
        const std::string& name = recorded.channels[event.channel].name;
        if (shape_of(before, name) == nullptr) {
            continue;
        }
        const courier::value_shape* const shape = shape_of(after, name);
        if (shape == nullptr) {
            count(name, "'" + name + "' is gone");
        } else if (event.payload_size != 0) {
            for (const courier::json_fault& fault :
                 courier::check_json(recorded.payload_of(event), *shape, rules_of_replay(event))) {
                std::string key = name;
                key.append(" ").append(fault.where).append(" ").append(id_of(fault.code));
                count(key, std::string("'").append(name).append("' ").append(fault.text()));
            }
        }
    }
    return all;
}

} // namespace tool
