# The core library, as a function, so that the tests can build it with other options too.

get_filename_component(WIRED_COURIER_ROOT ${CMAKE_CURRENT_LIST_DIR} DIRECTORY)
set(WIRED_COURIER_CORE_SOURCES
    address_book.cpp
    address_delivery.cpp
    audit.cpp
    batch.cpp
    channel_core.cpp
    errands.cpp
    fault.cpp
    frame_driver.cpp
    gate.cpp
    hub.cpp
    inbox.cpp
    ledger.cpp
    ledger_books.cpp
    ledger_notes.cpp
    noted.cpp
    noted_delivery.cpp
    outbox.cpp
    pipeline.cpp
    publish.cpp
    query.cpp
    registry.cpp
    relay.cpp
    sending_log.cpp
    sequence.cpp
    settle.cpp
    slot_pool.cpp
    stage_list.cpp
    subscriber.cpp
    subscriptions.cpp
    threads.cpp
    time_budget.cpp
    timetable.cpp
    type_number.cpp
    values.cpp
    views.cpp)

# wired_courier_add_core(NAME [STATIC|SHARED])
function(wired_courier_add_core name)
  set(sources ${WIRED_COURIER_CORE_SOURCES})
  list(TRANSFORM sources PREPEND ${WIRED_COURIER_ROOT}/src/)
  add_library(${name} ${ARGN} ${sources})
  target_compile_features(${name} PUBLIC cxx_std_20)
  target_include_directories(${name} PUBLIC
    $<BUILD_INTERFACE:${WIRED_COURIER_ROOT}/include>
    $<INSTALL_INTERFACE:${CMAKE_INSTALL_INCLUDEDIR}>)
  # Part of the library's binary interface, so users of the target get it too.
  target_compile_definitions(${name} PUBLIC
    WIRED_COURIER_CHECKED=$<BOOL:${WIRED_COURIER_CHECKED}>
    WIRED_COURIER_LEDGER=$<BOOL:${WIRED_COURIER_LEDGER}>)
  wired_courier_in_bulk(${name})
  set_target_properties(${name} PROPERTIES
    OUTPUT_NAME ${name}
    EXPORT_NAME core
    VERSION ${PROJECT_VERSION}
    SOVERSION ${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR}
    POSITION_INDEPENDENT_CODE ON)
endfunction()

set(WIRED_COURIER_KIT_SOURCES
    comparison.cpp
    event_packer.cpp
    event_taker.cpp
    explanation.cpp
    json_in.cpp
    lanes.cpp
    json_text.cpp
    line_taker.cpp
    line_writer.cpp
    recorder.cpp
    recording_file.cpp
    replay.cpp
    route_map.cpp
    run.cpp
    run_books.cpp
    run_filter.cpp
    run_reader.cpp
    statistics.cpp)

# wired_courier_add_kit(NAME CORE [STATIC|SHARED]): recordings and what is told from them.
function(wired_courier_add_kit name core)
  find_package(fmt REQUIRED)
  find_package(nlohmann_json REQUIRED)
  find_package(simdjson REQUIRED)
  find_package(Boost 1.77 REQUIRED) # Boost.Describe; headers only
  find_package(Threads REQUIRED)
  set(sources ${WIRED_COURIER_KIT_SOURCES})
  list(TRANSFORM sources PREPEND ${WIRED_COURIER_ROOT}/src/kit/)
  add_library(${name} ${ARGN} ${sources})
  target_link_libraries(${name}
    PUBLIC ${core} Boost::headers Threads::Threads
    PRIVATE fmt::fmt nlohmann_json::nlohmann_json simdjson::simdjson)
  wired_courier_in_bulk(${name} 6)
  set_target_properties(${name} PROPERTIES
    OUTPUT_NAME ${name}
    EXPORT_NAME kit
    VERSION ${PROJECT_VERSION}
    SOVERSION ${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR}
    POSITION_INDEPENDENT_CODE ON)
endfunction()
