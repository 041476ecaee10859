// Everything. Prefer the single headers where compile time matters.
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/addressed_publisher.hpp>
#include <courier/asker.hpp>
#include <courier/channel.hpp>
#include <courier/channel_name.hpp>
#include <courier/config.hpp>
#include <courier/delivery.hpp>
#include <courier/depth.hpp>
#include <courier/failure.hpp>
#include <courier/fault.hpp>
#include <courier/gate.hpp>
#include <courier/group.hpp>
#include <courier/hub.hpp>
#include <courier/lifecycle.hpp>
#include <courier/modules.hpp>
#include <courier/publisher.hpp>
#include <courier/query.hpp>
#include <courier/receipt.hpp>
#include <courier/relay.hpp>
#include <courier/stage.hpp>
#include <courier/subscriber.hpp>
#include <courier/subscription.hpp>
#include <courier/tally.hpp>
#include <courier/threads.hpp>
#include <courier/verdict.hpp>
