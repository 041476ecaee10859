// SPDX-License-Identifier: MIT
#include "gateway/serve/packed_run.hpp"

#include <courier/recording/run_image.hpp>

#include <zlib.h>

#include <algorithm>
#include <limits>
#include <new>
#include <stdexcept>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::string packed_run(const run& of) {
    std::string image = image_of(of);
    z_stream by{};
    constexpr int as_gzip = 15 + 16;
    constexpr int quick = 4; // between small and quick, nearer to quick
    if (deflateInit2(&by, quick, Z_DEFLATED, as_gzip, 8, Z_DEFAULT_STRATEGY) != Z_OK) {
        throw std::bad_alloc();
    }
    std::string made;
    std::size_t read = 0;
    int state = Z_OK;
    while (state == Z_OK) {
        const std::size_t some = std::min<std::size_t>(image.size() - read, std::numeric_limits<uInt>::max() / 2);
        by.next_in = reinterpret_cast<Bytef*>(image.data() + read);
        by.avail_in = static_cast<uInt>(some);
        const std::size_t room = std::max<std::size_t>(some / 4, std::size_t{1} << 16);
        const std::size_t before = made.size();
        made.resize(before + room);
        by.next_out = reinterpret_cast<Bytef*>(made.data() + before);
        by.avail_out = static_cast<uInt>(room);
        state = deflate(&by, read + some == image.size() ? Z_FINISH : Z_NO_FLUSH);
        read += some - by.avail_in;
        made.resize(before + room - by.avail_out);
        state = state == Z_BUF_ERROR ? Z_OK : state; // it wants more room
    }
    deflateEnd(&by);
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
