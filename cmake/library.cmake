# The core library, as a function, so that the tests can build it with other options too.

get_filename_component(WIRED_COURIER_ROOT ${CMAKE_CURRENT_LIST_DIR} DIRECTORY)
set(WIRED_COURIER_CORE_SOURCES
    base/at_the_end.cpp
    base/fault.cpp
    base/fault_text.cpp
    base/hold_back.cpp
    base/nearest.cpp
    base/nesting.cpp
    base/of_this_thread.cpp
    base/recycled.cpp
    base/threads.cpp
    base/type_name.cpp
    base/type_number.cpp
    base/value_type.cpp
    delivery/address_book.cpp
    delivery/address_delivery.cpp
    delivery/address_text.cpp
    delivery/anchors.cpp
    delivery/batch.cpp
    delivery/channel_core.cpp
    delivery/followers.cpp
    delivery/period.cpp
    delivery/phases.cpp
    delivery/oversight.cpp
    delivery/publish.cpp
    delivery/put_off.cpp
    delivery/registry.cpp
    delivery/relay_link.cpp
    delivery/slot_pool.cpp
    delivery/slots.cpp
    delivery/stage_list.cpp
    delivery/subscriber.cpp
    delivery/subscriptions.cpp
    routing/hub.cpp
    routing/level.cpp
    routing/query.cpp
    later/address_index.cpp
    later/errands.cpp
    later/frame_driver.cpp
    later/inbox.cpp
    later/address_order.cpp
    later/backlog_base.cpp
    later/outbox.cpp
    later/outbox_reports.cpp
    later/sending_log.cpp
    later/time_budget.cpp
    later/system_reports.cpp
    later/systems.cpp
    later/timed_call.cpp
    later/timetable.cpp
    later/waiting_places.cpp
    values/scheduler.cpp
    values/undo_history.cpp
    values/values.cpp
    values/dependencies.cpp
    values/refresh.cpp
    values/refreshers.cpp
    flow/pipeline.cpp
    flow/sequence.cpp
    ledger/accounts.cpp
    ledger/audit.cpp
    ledger/audit_rules.cpp
    ledger/audit_report.cpp
    ledger/circles.cpp
    ledger/ends_with_scope.cpp
    ledger/ledger.cpp
    ledger/ledger_books.cpp
    ledger/ledger_notes.cpp
    ledger/noted.cpp
    ledger/noted_delivery.cpp
    ledger/handler_times.cpp)

# What all components have in common. wired_courier_add_component(NAME KIND FOLDER SOURCE...): KIND is STATIC, SHARED
# or empty; the sources are below FOLDER.
function(wired_courier_add_component name kind folder)
  list(TRANSFORM ARGN PREPEND ${WIRED_COURIER_ROOT}/${folder}/ OUTPUT_VARIABLE sources)
  add_library(${name} ${kind} ${sources})
  target_include_directories(${name} PRIVATE ${WIRED_COURIER_ROOT}/src)
  wired_courier_in_bulk(${name})
  set_target_properties(${name} PROPERTIES
    VERSION ${PROJECT_VERSION}
    SOVERSION ${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR}
    POSITION_INDEPENDENT_CODE ON)
  # So that a program contains the functions that it uses, and no others. A debug build has no use for that.
  if(NOT MSVC)
    target_compile_options(${name} PRIVATE $<$<NOT:$<CONFIG:Debug>>:-ffunction-sections> $<$<NOT:$<CONFIG:Debug>>:-fdata-sections>)
  endif()
  get_target_property(type ${name} TYPE)
  if(type STREQUAL "SHARED_LIBRARY" AND CMAKE_SYSTEM_NAME STREQUAL "Linux")
    target_link_options(${name} PRIVATE LINKER:--version-script=${WIRED_COURIER_ROOT}/cmake/exports.map)
    set_property(TARGET ${name} APPEND PROPERTY LINK_DEPENDS ${WIRED_COURIER_ROOT}/cmake/exports.map)
  endif()
endfunction()

# wired_courier_add_core(NAME [STATIC|SHARED])
function(wired_courier_add_core name)
  wired_courier_add_component(${name} "${ARGN}" src ${WIRED_COURIER_CORE_SOURCES})
  target_compile_features(${name} PUBLIC cxx_std_20)
  target_include_directories(${name} PUBLIC
    $<BUILD_INTERFACE:${WIRED_COURIER_ROOT}/include>
    $<INSTALL_INTERFACE:${CMAKE_INSTALL_INCLUDEDIR}>)
  target_link_options(${name} INTERFACE
    $<$<AND:$<PLATFORM_ID:Linux>,$<NOT:$<CONFIG:Debug>>>:LINKER:--gc-sections>)
  # Part of the library's binary interface, so users of the target get it too.
  target_compile_definitions(${name} PUBLIC
    WIRED_COURIER_CHECKED=$<BOOL:${WIRED_COURIER_CHECKED}>
    WIRED_COURIER_LEDGER=$<BOOL:${WIRED_COURIER_LEDGER}>)
endfunction()

set(WIRED_COURIER_DATA_SOURCES
    base64.cpp
    cbor_reader.cpp
    cbor_writer.cpp
    chunk_queue.cpp
    json.cpp
    json_reader.cpp
    json_text.cpp
    json_writer.cpp
    named_place.cpp
    pack_value.cpp
    percent.cpp
    ports.cpp
    process_names.cpp
    saved_values.cpp
    schema.cpp
    value_shape.cpp
    words.cpp)

# wired_courier_add_data(NAME CORE [STATIC|SHARED]): values as JSON, CBOR and words; what the other components share.
function(wired_courier_add_data name core)
  find_package(fmt REQUIRED)
  find_package(nlohmann_json REQUIRED)
  find_package(Threads REQUIRED)
  wired_courier_add_component(${name} "${ARGN}" src/data ${WIRED_COURIER_DATA_SOURCES})
  target_link_libraries(${name} PUBLIC ${core} Threads::Threads PRIVATE fmt::fmt nlohmann_json::nlohmann_json)
endfunction()

set(WIRED_COURIER_RECORDING_SOURCES
    write/event_packer.cpp
    write/line_writer.cpp
    write/output_file.cpp
    write/narrator.cpp
    write/recorder.cpp
    read/event_taker.cpp
    read/forget.cpp
    read/line_taker.cpp
    read/recording_fault.cpp
    read/recording_file.cpp
    read/replay.cpp
    read/run.cpp
    read/run_books.cpp
    read/run_filter.cpp
    read/run_reader.cpp
    tell/comparison.cpp
    tell/explanation.cpp
    tell/explanation_words.cpp
    tell/lanes.cpp
    tell/phase_map.cpp
    tell/route_map.cpp
    tell/run_image.cpp
    tell/statistics.cpp
    tell/system_map.cpp
    tell/trace_events.cpp)

# wired_courier_add_recording(NAME DATA [STATIC|SHARED]): recordings and what is told from them.
function(wired_courier_add_recording name data)
  find_package(fmt REQUIRED)
  find_package(nlohmann_json REQUIRED)
  find_package(simdjson REQUIRED)
  find_package(Threads REQUIRED)
  wired_courier_add_component(${name} "${ARGN}" src/recording ${WIRED_COURIER_RECORDING_SOURCES})
  target_link_libraries(${name}
    PUBLIC ${data} Threads::Threads
    PRIVATE fmt::fmt nlohmann_json::nlohmann_json simdjson::simdjson)
endfunction()

set(WIRED_COURIER_WIRING_SOURCES
    catalogue/asyncapi_reader.cpp
    catalogue/asyncapi_writer.cpp
    catalogue/catalogue.cpp
    catalogue/client.cpp
    catalogue/comparison.cpp
    check/check_files.cpp
    check/check_wiring.cpp
    check/conditions.cpp
    check/constants.cpp
    check/declared_states.cpp
    check/parameters.cpp
    check/patterns.cpp
    check/targets.cpp
    check/together.cpp
    check/wire_checker.cpp
    edit/edit_text.cpp
    edit/fitting.cpp
    edit/wiring_edit.cpp
    run/console.cpp
    run/live_step.cpp
    run/live_wire.cpp
    run/made_states.cpp
    run/reach.cpp
    run/trial.cpp
    run/values.cpp
    run/wiring_audit.cpp
    run/wire_table.cpp
    run/wiring.cpp
    run/wiring_core.cpp
    text/data.cpp
    text/read_files.cpp
    text/read_toml.cpp
    text/toml_slips.cpp
    text/wiring_fault.cpp)

# wired_courier_add_wiring(NAME DATA [STATIC|SHARED]): wiring files, checked and in force.
function(wired_courier_add_wiring name data)
  find_package(fmt REQUIRED)
  find_package(nlohmann_json REQUIRED)
  find_path(WIRED_COURIER_TOMLPP toml++/toml.h REQUIRED) # headers only
  wired_courier_add_component(${name} "${ARGN}" src/wiring ${WIRED_COURIER_WIRING_SOURCES})
  target_include_directories(${name} SYSTEM PRIVATE ${WIRED_COURIER_TOMLPP})
  target_link_libraries(${name} PUBLIC ${data} PRIVATE fmt::fmt nlohmann_json::nlohmann_json)
endfunction()

set(WIRED_COURIER_GATEWAY_SOURCES
    ask/by_name.cpp
    ask/game_calls.cpp
    ask/reply.cpp
    ask/wiring_desk.cpp
    ask/wiring_json.cpp
    gateway.cpp
    gateway_core.cpp
    run_follower.cpp
    http/connection_pool.cpp
    http/doorkeeper.cpp
    http/guarded_stream.cpp
    http/http_server.cpp
    serve/answers.cpp
    serve/files.cpp
    serve/metrics.cpp
    serve/packed_run.cpp
    serve/page.cpp
    serve/report.cpp
    serve/router.cpp
    serve/stream_reader.cpp
    stream/run_stream.cpp
    stream/stream_memory.cpp
    stream/value_stream.cpp)

# wired_courier_add_gateway(NAME RECORDING WIRING [STATIC|SHARED]): an HTTP server for pages and other programs.
function(wired_courier_add_gateway name recording wiring)
  find_package(fmt REQUIRED)
  find_package(nlohmann_json REQUIRED)
  find_package(PkgConfig REQUIRED)
  find_package(ZLIB REQUIRED)
  pkg_check_modules(httplib REQUIRED IMPORTED_TARGET GLOBAL cpp-httplib)
  wired_courier_add_component(${name} "${ARGN}" src/gateway ${WIRED_COURIER_GATEWAY_SOURCES})
  target_link_libraries(${name} PUBLIC ${recording} ${wiring} PRIVATE PkgConfig::httplib ZLIB::ZLIB fmt::fmt nlohmann_json::nlohmann_json)
  wired_courier_add_page(${name})
endfunction()

set(WIRED_COURIER_FERRY_SOURCES
    cause_memory.cpp
    crossing_id.cpp
    ferry.cpp
    ferry_core.cpp
    inward/message_reader.cpp
    inward/seen_numbers.cpp
    link/broker_link.cpp
    link/broker_link_events.cpp
    link/waker.cpp
    losses.cpp
    mqtt/mqtt_client.cpp
    outward/kept_messages.cpp
    outward/outward_box.cpp
    outward/outward_message.cpp
    outward/waiting_file.cpp
    outward/waiting_room.cpp
    questions.cpp
    topics.cpp)

# wired_courier_add_ferry(NAME DATA [STATIC|SHARED]): channels between processes, over a broker.
function(wired_courier_add_ferry name data)
  find_package(fmt REQUIRED)
  find_package(nlohmann_json REQUIRED)
  find_package(PkgConfig REQUIRED)
  pkg_check_modules(mosquitto REQUIRED IMPORTED_TARGET GLOBAL libmosquitto)
  wired_courier_add_component(${name} "${ARGN}" src/ferry ${WIRED_COURIER_FERRY_SOURCES})
  target_link_libraries(${name} PUBLIC ${data} PRIVATE PkgConfig::mosquitto fmt::fmt nlohmann_json::nlohmann_json)
endfunction()
