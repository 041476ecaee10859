// Channels seen through adaptors: everything in courier/pipeline/.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/pipeline/accumulate.hpp>
#include <courier/pipeline/at_most_every.hpp>
#include <courier/pipeline/beside.hpp>
#include <courier/pipeline/drop.hpp>
#include <courier/pipeline/drop_while.hpp>
#include <courier/pipeline/filter.hpp>
#include <courier/pipeline/merge.hpp>
#include <courier/pipeline/once_all.hpp>
#include <courier/pipeline/only_changes.hpp>
#include <courier/pipeline/overridden_by.hpp>
#include <courier/pipeline/quiet_for.hpp>
#include <courier/pipeline/slide.hpp>
#include <courier/pipeline/take.hpp>
#include <courier/pipeline/take_while.hpp>
#include <courier/pipeline/transform.hpp>
#include <courier/pipeline/with_address.hpp>
