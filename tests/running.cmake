# Tests that run what was built.

# The core through its public headers, one test file a header.
set(thread_tests frame_driver_test.cpp inbox_payloads_test.cpp inbox_test.cpp threads_test.cpp)
set(other_tests
  address_told_test.cpp aimed_poster_test.cpp addressed_channel_test.cpp audit_test.cpp batch_test.cpp addressed_batch_test.cpp cause_test.cpp channel_test.cpp delivery_options_test.cpp
  depth_test.cpp failure_test.cpp fault_test.cpp fields_test.cpp formula_random_test.cpp formula_test.cpp period_test.cpp group_test.cpp group_waits_test.cpp hub_test.cpp
  ends_its_owner_flow_test.cpp ends_its_owner_test.cpp in_use_flow_test.cpp in_use_later_test.cpp in_use_test.cpp in_use_values_test.cpp
  ledger_test.cpp ledger_turns_test.cpp level_test.cpp lifecycle_test.cpp memory_full_test.cpp outbox_test.cpp pipeline_sources_test.cpp pipeline_test.cpp publisher_test.cpp query_test.cpp
  relay_test.cpp request_test.cpp retained_test.cpp second_unit.cpp sequence_ends_test.cpp
  sequence_test.cpp phases_test.cpp reactions_test.cpp stage_test.cpp state_test.cpp storage_test.cpp subscriber_test.cpp subscription_test.cpp
  systems_test.cpp tally_test.cpp testing_test.cpp timed_call_test.cpp timetable_test.cpp undo_history_test.cpp)
add_executable(core_test allocations.cpp overseen.cpp ${thread_tests})
if(NOT WIRED_COURIER_TEST_THREADS_ONLY)
  target_sources(core_test PRIVATE ${other_tests})
  wired_courier_precompile(core_test support.hpp)
  set_source_files_properties(second_unit.cpp PROPERTIES SKIP_PRECOMPILE_HEADERS ON) # it has names that a header has
endif()
target_link_libraries(core_test PRIVATE WiredCourier::core doctest_main Threads::Threads)
wired_courier_warnings(core_test)
courier_test(core COMMAND core_test)

# The same with a ledger that has every channel's books. What is left out counts
# allocations, or is about ledgers.
courier_test(core_overseen COMMAND core_test "-tce=*alloc*,*ledger*,*bytes*,*what ended is reused*"
  ENVIRONMENT COURIER_TEST_LEDGER=1)

# Values as data, through public headers.
if(TARGET wired_courier_data AND NOT WIRED_COURIER_TEST_THREADS_ONLY)
  find_package(nlohmann_json REQUIRED)
  add_executable(data_component_test data/json_test.cpp data/saved_values_test.cpp)
  target_link_libraries(data_component_test PRIVATE WiredCourier::data doctest_main nlohmann_json::nlohmann_json)
  wired_courier_warnings(data_component_test)
  courier_test(data COMMAND data_component_test)
endif()

# The recording component through its public headers. It writes and reads on threads of its own.
if(TARGET wired_courier_recording)
  find_package(nlohmann_json REQUIRED)
  add_executable(recording_component_test allocations.cpp recording/broken_recordings_test.cpp recording/recorded_details_test.cpp
    recording/recording_test.cpp recording/replay_test.cpp recording/run_image_test.cpp recording/narrator_test.cpp recording/takers_test.cpp recording/whole_truth_test.cpp)
  wired_courier_precompile(recording_component_test recording/support.hpp)
  target_link_libraries(recording_component_test PRIVATE WiredCourier::recording doctest_main nlohmann_json::nlohmann_json Threads::Threads)
  wired_courier_warnings(recording_component_test)
  courier_test(recording COMMAND recording_component_test)
endif()

# The gateway through HTTP.
if(TARGET wired_courier_gateway)
  add_executable(gateway_component_test gateway/hostile_test.cpp gateway/requests_test.cpp gateway/run_test.cpp
    gateway/values_test.cpp gateway/wiring_desk_test.cpp)
  wired_courier_precompile(gateway_component_test gateway/support.hpp)
  target_link_libraries(gateway_component_test PRIVATE WiredCourier::gateway doctest_main nlohmann_json::nlohmann_json PkgConfig::httplib
    Threads::Threads)
  wired_courier_warnings(gateway_component_test)
  courier_test(gateway COMMAND gateway_component_test)
endif()

# The ferry through a broker that the tests start.
if(TARGET wired_courier_ferry)
  add_executable(ferry_component_test ferry/asking_test.cpp ferry/crossing_test.cpp ferry/ending_test.cpp
    ferry/hostile_test.cpp ferry/link_test.cpp ferry/promises_test.cpp ferry/support.cpp ferry/waiting_test.cpp ${PROJECT_SOURCE_DIR}/demo/local_broker.cpp)
  wired_courier_precompile(ferry_component_test ferry/support.hpp)
  target_link_libraries(ferry_component_test PRIVATE WiredCourier::ferry WiredCourier::recording doctest_main PkgConfig::mosquitto Threads::Threads)
  target_compile_definitions(ferry_component_test PRIVATE WIRED_COURIER_BROKER_FILES="${PROJECT_SOURCE_DIR}/examples/broker")
  wired_courier_warnings(ferry_component_test)
  courier_test(ferry COMMAND ferry_component_test)
endif()
if(WIRED_COURIER_TEST_THREADS_ONLY)
  return()
endif()

# The wiring component through its public headers.
if(TARGET wired_courier_wiring)
  add_executable(wiring_component_test allocations.cpp wiring/catalogue_test.cpp wiring/causes_test.cpp wiring/declared_states_test.cpp wiring/checking_test.cpp wiring/console_test.cpp wiring/editing_test.cpp
    wiring/messages_test.cpp
    wiring/reloading_test.cpp wiring/support.cpp wiring/targets_test.cpp wiring/wiring_test.cpp)
  wired_courier_precompile(wiring_component_test wiring/support.hpp)
  target_link_libraries(wiring_component_test PRIVATE WiredCourier::wiring doctest_main)
  target_compile_definitions(wiring_component_test PRIVATE WIRED_COURIER_TEST_FILES="${CMAKE_CURRENT_SOURCE_DIR}/wiring")
  wired_courier_warnings(wiring_component_test)
  courier_test(wiring COMMAND wiring_component_test)
endif()

# Changed files, where there is a fuzzer: with clang and its sanitizers. The component itself shows the fuzzer where it
# comes, since compiling it once more for the fuzzer would take minutes.
# courier_fuzz_test(NAME COMPONENT CORPUS [SOURCE ...])
function(courier_fuzz_test name component corpus)
  add_executable(${name} fuzz/${name}.cpp ${ARGN})
  target_compile_definitions(${name} PRIVATE DOCTEST_CONFIG_DISABLE) # of what it shares with tests it needs no checks
  target_link_libraries(${name} PRIVATE WiredCourier::${component})
  target_include_directories(${name} PRIVATE ${PROJECT_SOURCE_DIR}/src)
  foreach(target ${name} wired_courier_${component})
    target_compile_options(${target} PRIVATE -fsanitize=fuzzer-no-link -fsanitize-coverage-ignorelist=${CMAKE_CURRENT_SOURCE_DIR}/fuzz/unseen.txt)
  endforeach()
  target_link_options(${name} PRIVATE -fsanitize=fuzzer)
  wired_courier_warnings(${name})
  # What it finds out on its way is kept for the next time, beside what it was given.
  file(MAKE_DIRECTORY ${CMAKE_CURRENT_BINARY_DIR}/${name}_found)
  courier_test(${name} TIMEOUT 180 COMMAND ${name} -max_total_time=${WIRED_COURIER_TEST_FUZZ_SECONDS}
    -timeout=10 -rss_limit_mb=1024 -max_len=65536 -print_final_stats=1 -verbosity=0 -artifact_prefix=${CMAKE_CURRENT_BINARY_DIR}/
    ${CMAKE_CURRENT_BINARY_DIR}/${name}_found ${CMAKE_CURRENT_SOURCE_DIR}/fuzz/${corpus})
endfunction()
if(TARGET wired_courier_recording AND CMAKE_CXX_COMPILER_ID STREQUAL "Clang" AND CMAKE_CXX_FLAGS MATCHES "-fsanitize=address")
  courier_fuzz_test(recording_fuzz recording corpus)
  courier_fuzz_test(wiring_fuzz wiring wiring wiring/support.cpp)
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
courier_test(model_taken COMMAND model_test --steps ${overseen_steps} --seed 70000 --ledger --takers)

# Everything public at random, from every place where code of the user's runs.
add_executable(acts_test acts/main.cpp acts/world.cpp acts/world_ending.cpp acts/world_later.cpp acts/world_level.cpp acts/world_subscribing.cpp
  acts/world_values.cpp acts/world_wiring.cpp memory_bound.cpp)
wired_courier_precompile(acts_test everything.hpp <courier/wiring/wiring.hpp> <fmt/format.h>)
target_link_libraries(acts_test PRIVATE WiredCourier::wiring CLI11::CLI11 fmt::fmt)
set_source_files_properties(acts/main.cpp PROPERTIES COMPILE_OPTIONS "${plainly}" SKIP_PRECOMPILE_HEADERS ON)
wired_courier_warnings(acts_test)
courier_test(acts COMMAND acts_test --programs ${WIRED_COURIER_TEST_ACTS})

if(WIRED_COURIER_BUILD_EXAMPLES)
  file(GLOB expected CONFIGURE_DEPENDS ${PROJECT_SOURCE_DIR}/examples/expected/*.txt)
  foreach(text IN LISTS expected)
    get_filename_component(name ${text} NAME_WE)
    courier_test(example/${name} COMMAND ${CMAKE_COMMAND}
      -DPROGRAM=$<TARGET_FILE:example_${name}> -DEXPECTED=${text} -P ${CMAKE_CURRENT_SOURCE_DIR}/same_output.cmake)
  endforeach()
endif()

if(TARGET courier_tool)
  add_executable(tool_test tool_test.cpp tool_recording_test.cpp tool_ferry_test.cpp tool_gateway_test.cpp)
  wired_courier_precompile(tool_test tool_support.hpp <nlohmann/json.hpp>)
  target_link_libraries(tool_test PRIVATE WiredCourier::recording doctest_main nlohmann_json::nlohmann_json)
  target_compile_definitions(tool_test PRIVATE
    COURIER_TOOL="$<TARGET_FILE:courier_tool>" COURIER_NIGHT="$<TARGET_FILE:night>" TEST_SCRATCH="${CMAKE_CURRENT_BINARY_DIR}"
    COURIER_DOCUMENTS="${PROJECT_SOURCE_DIR}/docs")
  add_executable(replayed_game recording/replayed_game.cpp)
  target_link_libraries(replayed_game PRIVATE WiredCourier::recording)
  wired_courier_warnings(replayed_game)
  add_dependencies(tool_test courier_tool night replayed_game)
  wired_courier_warnings(tool_test)
  courier_test(tool COMMAND tool_test)
  foreach(transcript night recordings usage wiring)
    courier_test(transcript/${transcript} COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/transcripts/check $<TARGET_FILE:courier_tool>
      ${CMAKE_CURRENT_SOURCE_DIR}/transcripts/${transcript}.txt ${CMAKE_CURRENT_BINARY_DIR}/transcript_${transcript})
  endforeach()
  # The page, in a browser.
  if(WIRED_COURIER_BUILD_PAGE AND WIRED_COURIER_NPM)
    courier_test(page TIMEOUT 260 COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/page/run
      $<TARGET_FILE:courier_tool> ${PROJECT_SOURCE_DIR}/build/page/work ${CMAKE_CURRENT_BINARY_DIR}/page)
    set_tests_properties(page PROPERTIES SKIP_RETURN_CODE 77 RUN_SERIAL ON)
  endif()
  # What others understand by the formats that it writes.
  if(WIRED_COURIER_TEST_OUTSIDE)
    courier_test(outside_validators COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/outside/validate
      $<TARGET_FILE:courier_tool> ${CMAKE_CURRENT_BINARY_DIR}/outside)
    set_tests_properties(outside_validators PROPERTIES SKIP_RETURN_CODE 77)
  endif()
endif()

# What a publish takes, in counted instructions; with one compiler and one level of optimisation, since counts differ.
find_program(WIRED_COURIER_VALGRIND valgrind)
if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU" AND CMAKE_BUILD_TYPE STREQUAL "Release" AND WIRED_COURIER_VALGRIND
   AND CMAKE_SYSTEM_PROCESSOR MATCHES "x86_64")
  add_executable(instructions ${PROJECT_SOURCE_DIR}/bench/instructions.cpp ${PROJECT_SOURCE_DIR}/bench/baselines.cpp)
  target_link_libraries(instructions PRIVATE WiredCourier::core)
  courier_test(instructions COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/instructions/check $<TARGET_FILE:instructions>)
  add_executable(growth ${PROJECT_SOURCE_DIR}/bench/growth.cpp)
  target_link_libraries(growth PRIVATE WiredCourier::core)
  courier_test(growth COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/growth/check $<TARGET_FILE:growth>)
endif()
