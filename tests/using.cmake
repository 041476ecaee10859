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
  courier_test(debuggers COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/debuggers/check $<TARGET_FILE:debugged_game> ${PROJECT_SOURCE_DIR})
  set_tests_properties(debuggers PROPERTIES SKIP_RETURN_CODE 77)
endif()

# Documents, public headers and messages are in plain English.
courier_test(english COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/english/check)
courier_test(words COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/english/words)
courier_test(pages COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/english/pages)

# Use from another project: installed, also both kinds at once, as a subdirectory, fetched, through pkg-config and Meson;
# and a new game of the tool's.
set(ways package subdirectory fetched pkgconfig both_kinds)
find_program(WIRED_COURIER_MESON meson)
if(WIRED_COURIER_MESON)
  list(APPEND ways meson)
endif()
if(TARGET courier_tool)
  list(APPEND ways new_game)
endif()
foreach(component data recording wiring gateway ferry)
  if(TARGET wired_courier_${component})
    list(APPEND ways ${component} pkgconfig_${component})
  endif()
endforeach()
foreach(way IN LISTS ways)
  courier_test(consumer/${way} COMMAND ${CMAKE_COMMAND}
    -DWAY=${way} -DCOMPILER=${CMAKE_CXX_COMPILER} -DFLAGS=${CMAKE_CXX_FLAGS} -DROOT=${PROJECT_SOURCE_DIR}
    -DBUILD=${PROJECT_BINARY_DIR} -DLIBDIR=${CMAKE_INSTALL_LIBDIR} -DBUILD_TYPE=${CMAKE_BUILD_TYPE}
    -DCHECKED=$<BOOL:${WIRED_COURIER_CHECKED}>
    -DSCRATCH=${CMAKE_CURRENT_BINARY_DIR}/consumer_${way} "-DCCACHE=${WIRED_COURIER_CCACHE}"
    -P ${CMAKE_CURRENT_SOURCE_DIR}/consumers/check.cmake)
endforeach()

# The table of lines in docs/recordings.md is as the records are.
if(TARGET wired_courier_recording)
  add_executable(record_table recording/record_table.cpp)
  target_link_libraries(record_table PRIVATE WiredCourier::recording)
  target_include_directories(record_table PRIVATE ${PROJECT_SOURCE_DIR}/src)
  wired_courier_warnings(record_table)
  courier_test(record_table COMMAND record_table ${PROJECT_SOURCE_DIR}/docs/recordings.md)
endif()
