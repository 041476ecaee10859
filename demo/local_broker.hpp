// A broker on this machine only, for as long as somebody needs it.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include <sys/types.h>

namespace reef {

/// Starts Debian's mosquitto on a free port of the loopback address, in a folder of its
/// own, with what examples/broker/mosquitto.conf tells a broker to do; ends it, and takes
/// the folder away, with itself.
class local_broker {
public:
    /// `told` takes the place of its usual configuration; "%PORT%" and "%FOLDER%" in it are
    /// what they say. Throws `std::runtime_error` when there is no mosquitto, or it does
    /// not come up in five seconds.
    explicit local_broker(std::string_view told = {});
    local_broker(const local_broker&) = delete;
    local_broker& operator=(const local_broker&) = delete;
    ~local_broker();

    [[nodiscard]] int port() const noexcept { return port_; }
    [[nodiscard]] const std::filesystem::path& folder() const noexcept { return folder_; }

    /// Lets it end, or kills it; and starts it again, at the same port, with what it kept.
    void end();
    void kill();
    void start();

private:
    void write_config(std::string_view told) const;
    [[nodiscard]] bool listens() const;

    std::filesystem::path folder_;
    int port_ = 0;
    pid_t process_ = -1;
};

} // namespace reef
