// A host that loads modules, unloads them, and loads changed builds of them.
#include "game.hpp"

#include "../support.hpp"

#include <courier/fault.hpp>
#include <courier/subscriber.hpp>

#include <doctest/doctest.h>

#include <string>
#include <vector>

#include <dlfcn.h>

namespace {

class module_handle {
public:
    explicit module_handle(std::string path) : path_(std::move(path)), handle_(dlopen(path_.c_str(), RTLD_NOW)) {
        REQUIRE_MESSAGE(handle_ != nullptr, dlerror());
    }
    ~module_handle() { unload(); }
    module_handle(const module_handle&) = delete;
    module_handle& operator=(const module_handle&) = delete;

    void start(game::host& host) const { call<void(game::host&)>("module_start")(host); }
    void stop() const { call<void()>("module_stop")(); }

    void unload() {
        if (handle_ != nullptr) {
            dlclose(handle_);
            handle_ = nullptr;
        }
    }
    [[nodiscard]] bool in_memory() const { return dlopen(path_.c_str(), RTLD_NOW | RTLD_NOLOAD) != nullptr; }

private:
    template <class Function>
    Function* call(const char* name) const {
        auto* function = reinterpret_cast<Function*>(dlsym(handle_, name));
        const bool found = function != nullptr;
        REQUIRE(found);
        return function;
    }

    std::string path_;
    void* handle_;
};

} // namespace

TEST_CASE("contract 11: a module is unloaded and a changed build of it loaded, and all is well") {
    game::host host;
    courier::subscriber own{"host"};
    int rung = 0;
    own.subscribe(host.rang, [&](const game::Rang& r) { rung += r.times; });
    for (int round = 0; round < 3; ++round) {
        for (const char* path : {MODULE_V1, MODULE_V2}) {
            module_handle module(path);
            module.start(host);
            CHECK(host.moored.publish({.boat = 7}).served() == 2);
            module.stop();
            CHECK(host.moored.size() == 0);
            module.unload();
            CHECK_FALSE(module.in_memory());
            CHECK(host.moored.publish({.boat = 8}).served() == 0);
        }
    }
    CHECK(rung == 9);
    REQUIRE(host.heard.size() == 12);
    CHECK(host.heard[0] == "early 7");
    CHECK(host.heard[1] == "v1 boat 7");
    CHECK(host.heard[3] == "v2 boat 7");
}

TEST_CASE("contract 11: a reloaded module finds its channels in the hub, which outlive the module that made them") {
    game::host host;
    for (const char* path : {MODULE_V1, MODULE_V2}) {
        module_handle module(path);
        module.start(host);
        CHECK(host.match.size() == 3); // made by the first
        CHECK(host.match.channel<game::Hailed>().publish_to("north quay", {}).served() == 1);
        CHECK(host.match.query<game::VersionAsked>().ask({}) == (path == std::string{MODULE_V1} ? 1 : 2));
        CHECK(host.match.channel<game::Rang>().publish({.times = 5}).served() == 1);
        module.stop();
        module.unload();
        CHECK_FALSE(module.in_memory());
        CHECK(host.match.channel<game::Hailed>().publish_to("north quay", {}).vacant());
        CHECK_FALSE(host.match.query<game::VersionAsked>().ask({}).has_value());
        CHECK(host.match.channel<game::Rang>().publish({.times = 5}).served() == 0);
    }
}

TEST_CASE("contract 11: unloading with live subscriptions is reported, not crashed into") {
    test::fault_catcher faults;
    game::host host;
    courier::subscriber own{"host"};
    int heard = 0;
    own.subscribe(host.moored, [&] { ++heard; });
    module_handle module(CARELESS_MODULE);
    module.start(host);
    module.stop();
    CHECK(host.moored.publish({.boat = 1}).served() == 3);
    module.unload();
    CHECK_FALSE(module.in_memory());
    REQUIRE(faults.caught().size() == 1);
    const courier::fault& f = faults.caught()[0];
    CHECK(f.code == courier::fault_code::module_has_subscriptions);
    CHECK(test::contains(f.text(), "module 'careless_module' is being unloaded with live subscriptions: "));
    CHECK(test::contains(f.text(), "'harbour.moored' from careless_module.cpp:"));
    CHECK(test::contains(f.text(), "'bell.rang' from careless_module.cpp:"));
    CHECK(test::contains(f.text(), "'harbour.moored' as its failure handler"));
    CHECK(host.moored.publish({.boat = 2}).served() == 1);
    CHECK(host.moored.size() == 1);
    CHECK(host.rang.size() == 0);
    CHECK(heard == 2);
}

TEST_CASE("contract 11: a module may be unloaded in the middle of a publish") {
    test::fault_catcher faults;
    game::host host;
    courier::subscriber own{"host"};
    module_handle module(CARELESS_MODULE);
    module.start(host);
    // Behind the module's own handler, which has ended itself by then.
    own.subscribe(host.rang, [&] { module.unload(); });
    CHECK(host.rang.publish({.times = 1}).served() == 2);
    CHECK(host.rang.publish({.times = 1}).served() == 1);
    CHECK(faults.caught().size() == 1);
}

#if WIRED_COURIER_CHECKED
TEST_CASE("checked builds tell of a module with a copy of the library of its own") {
    game::host host;
    const module_handle module(STRANGER_MODULE);
    try {
        module.start(host);
        FAIL("not caught");
    } catch (const std::exception& e) { // its misuse is another type
        CHECK(test::contains(e.what(), "by a second copy of the library"));
        CHECK(test::contains(e.what(), "[courier.two-libraries]"));
    }
}
#endif
