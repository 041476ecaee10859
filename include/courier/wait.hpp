// What a sequence can wait for: everything in courier/wait/.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/wait/arrivals.hpp>
#include <courier/wait/ask.hpp>
#include <courier/wait/elapsed.hpp>
#include <courier/wait/next.hpp>
#include <courier/wait/of_group.hpp>
#include <courier/wait/or_else.hpp>
#include <courier/wait/until.hpp>
#include <courier/wait/when_all.hpp>
#include <courier/wait/when_any.hpp>
#include <courier/wait/within.hpp>
