# Tests that run what was built.

# The core through its public headers, one test file a header.
set(thread_tests frame_driver_test.cpp inbox_test.cpp threads_test.cpp)
set(other_tests
  addressed_channel_test.cpp audit_test.cpp batch_test.cpp cause_test.cpp channel_test.cpp delivery_test.cpp
  depth_test.cpp failure_test.cpp fault_test.cpp formula_test.cpp gate_test.cpp group_test.cpp hub_test.cpp
  ledger_test.cpp lifecycle_test.cpp outbox_test.cpp pipeline_test.cpp publisher_test.cpp query_test.cpp
  random_ends_test.cpp reentrancy_test.cpp relay_test.cpp retained_test.cpp second_unit.cpp sequence_ends_test.cpp
  sequence_test.cpp stage_test.cpp state_test.cpp storage_test.cpp subscriber_test.cpp subscription_test.cpp
  tally_test.cpp testing_test.cpp timetable_test.cpp)
add_executable(core_test allocations.cpp overseen.cpp ${thread_tests})
if(NOT WIRED_COURIER_TEST_THREADS_ONLY)
  target_sources(core_test PRIVATE ${other_tests})
  wired_courier_precompile(core_test <doctest/doctest.h> <courier/courier.hpp> <string> <vector>)
endif()
target_link_libraries(core_test PRIVATE WiredCourier::core doctest_main Threads::Threads)
wired_courier_warnings(core_test)
courier_test(core COMMAND core_test)

# The same with a ledger that has every channel's books. What is left out counts
# allocations, or is about ledgers.
courier_test(core_overseen COMMAND core_test "-tce=*alloc*,*ledger*,*bytes*,*what ended is reused*"
  ENVIRONMENT COURIER_TEST_LEDGER=1)

# The kit through its public headers. It writes and reads on threads of its own.
if(TARGET wired_courier_kit)
  find_package(nlohmann_json REQUIRED)
  add_executable(kit_test kit/recording_test.cpp kit/replay_test.cpp)
  target_link_libraries(kit_test PRIVATE WiredCourier::kit doctest_main nlohmann_json::nlohmann_json Threads::Threads)
  wired_courier_warnings(kit_test)
  courier_test(kit COMMAND kit_test)
endif()
if(WIRED_COURIER_TEST_THREADS_ONLY)
  return()
endif()

# Random programs against a reference.
find_package(CLI11 REQUIRED)
find_package(fmt REQUIRED)
add_executable(model_test model/main.cpp model/library.cpp model/program.cpp model/reference.cpp memory_bound.cpp)
target_link_libraries(model_test PRIVATE WiredCourier::core CLI11::CLI11 fmt::fmt)
set_source_files_properties(model/main.cpp PROPERTIES COMPILE_OPTIONS "${plainly}")
wired_courier_warnings(model_test)
math(EXPR overseen_steps "${WIRED_COURIER_TEST_MODEL_STEPS} / 2")
courier_test(model COMMAND model_test --steps ${WIRED_COURIER_TEST_MODEL_STEPS})
courier_test(model_overseen COMMAND model_test --steps ${overseen_steps} --seed 50000 --ledger)

if(WIRED_COURIER_BUILD_EXAMPLES)
  file(GLOB expected CONFIGURE_DEPENDS ${PROJECT_SOURCE_DIR}/examples/expected/*.txt)
  foreach(text IN LISTS expected)
    get_filename_component(name ${text} NAME_WE)
    courier_test(example/${name} COMMAND ${CMAKE_COMMAND}
      -DPROGRAM=$<TARGET_FILE:example_${name}> -DEXPECTED=${text} -P ${CMAKE_CURRENT_SOURCE_DIR}/same_output.cmake)
  endforeach()
endif()

if(TARGET courier_tool)
  add_executable(tool_test tool_test.cpp tool_recording_test.cpp)
  target_link_libraries(tool_test PRIVATE WiredCourier::kit reef_demo doctest_main nlohmann_json::nlohmann_json)
  target_compile_definitions(tool_test PRIVATE
    COURIER_TOOL="$<TARGET_FILE:courier_tool>" TEST_SCRATCH="${CMAKE_CURRENT_BINARY_DIR}")
  add_executable(replayed_game kit/replayed_game.cpp)
  target_link_libraries(replayed_game PRIVATE WiredCourier::kit)
  wired_courier_warnings(replayed_game)
  target_compile_definitions(tool_test PRIVATE REPLAYED_GAME="$<TARGET_FILE:replayed_game>")
  add_dependencies(tool_test courier_tool replayed_game)
  wired_courier_warnings(tool_test)
  courier_test(tool COMMAND tool_test)
endif()
