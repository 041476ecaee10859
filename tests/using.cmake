# Use from outside this build.

# The code in the documents compiles as it stands and prints what they say.
if(TARGET wired_courier_gateway AND TARGET wired_courier_ferry)
  set(linked $<TARGET_PROPERTY:PkgConfig::httplib,INTERFACE_LINK_LIBRARIES> $<TARGET_PROPERTY:PkgConfig::mosquitto,INTERFACE_LINK_LIBRARIES>
    -lsimdjson -lfmt -lz -pthread)
  foreach(component core data recording wiring gateway ferry)
    list(PREPEND linked $<TARGET_FILE:wired_courier_${component}>)
  endforeach()
  courier_test(documents COMMAND ${CMAKE_COMMAND}
    -DCOMPILER=${CMAKE_CXX_COMPILER} -DFLAGS=${CMAKE_CXX_FLAGS} -DROOT=${PROJECT_SOURCE_DIR} "-DLIBRARY=${linked}"
    -DCHECKED=$<BOOL:${WIRED_COURIER_CHECKED}>
    -DSCRATCH=${CMAKE_CURRENT_BINARY_DIR}/documents -P ${CMAKE_CURRENT_SOURCE_DIR}/documents.cmake)
endif()

# What gdb shows, and where it steps; of a program as its compiler's users debug it.
find_program(WIRED_COURIER_GDB gdb)
if(WIRED_COURIER_GDB AND CMAKE_CXX_COMPILER_ID STREQUAL "GNU" AND NOT CMAKE_CXX_FLAGS MATCHES "sanitize")
  add_executable(debugged_game debuggers/game.cpp)
  target_link_libraries(debugged_game PRIVATE WiredCourier::core)
  target_compile_options(debugged_game PRIVATE -O0 -g)
  # An object from the cache may name the folder of another clone, where gdb finds no source.
  set_target_properties(debugged_game PROPERTIES CXX_COMPILER_LAUNCHER "")
  courier_test(debuggers COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/debuggers/check $<TARGET_FILE:debugged_game> ${PROJECT_SOURCE_DIR})
  set_tests_properties(debuggers PROPERTIES SKIP_RETURN_CODE 77)
endif()

# Documents, public headers and messages are in plain English.
courier_test(english COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/english/check)
courier_test(words COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/english/words)
courier_test(pages COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/english/pages)

# The table of lines in docs/recordings.md is as the records are.
if(TARGET wired_courier_recording)
  add_executable(record_table recording/record_table.cpp)
  target_link_libraries(record_table PRIVATE WiredCourier::recording)
  target_include_directories(record_table PRIVATE ${PROJECT_SOURCE_DIR}/src)
  wired_courier_warnings(record_table)
  courier_test(record_table COMMAND record_table ${PROJECT_SOURCE_DIR}/docs/recordings.md)
endif()
