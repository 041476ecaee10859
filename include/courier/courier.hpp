// Everything. Prefer the single headers where compile time matters.
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/delivery.hpp>
#include <courier/depth.hpp>
#include <courier/failure.hpp>
#include <courier/fault.hpp>
#include <courier/modules.hpp>
#include <courier/publisher.hpp>
#include <courier/receipt.hpp>
#include <courier/stage.hpp>
#include <courier/subscriber.hpp>
#include <courier/subscription.hpp>
#include <courier/threads.hpp>
#include <courier/verdict.hpp>
