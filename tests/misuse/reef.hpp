// Payloads for the files beside this one.
#pragma once

struct Moored {
    int boat;
};
struct Bitten {
    int barge;
};
struct Dawn {};
struct Hailed {
    using address = int;
    int hand;
};
struct DepthAsked {
    using answer = int;
    int hour;
};
