# Tests that are about compiling.

if(CMAKE_CXX_COMPILER_ID MATCHES "Clang")
  # Every header compiles alone; with the stricter compiler, since one tells as much as two.
  file(GLOB_RECURSE headers CONFIGURE_DEPENDS RELATIVE ${PROJECT_SOURCE_DIR}/include ${PROJECT_SOURCE_DIR}/include/*.hpp)
  set(header_units)
  foreach(header IN LISTS headers)
    string(REPLACE "/" "_" unit ${header})
    set(unit ${CMAKE_CURRENT_BINARY_DIR}/headers/${unit}.cpp)
    file(CONFIGURE OUTPUT ${unit} CONTENT "#include <${header}>\n#include <${header}>\n")
    list(APPEND header_units ${unit})
  endforeach()
  add_library(headers_alone OBJECT ${header_units})
  target_link_libraries(headers_alone PRIVATE WiredCourier::$<IF:$<TARGET_EXISTS:wired_courier_recording>,recording,core>)
  wired_courier_warnings(headers_alone)
endif()

# What must not compile, and what the compiler must say.
courier_test(misuse COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/misuse/check ${CMAKE_CXX_COMPILER} ${PROJECT_SOURCE_DIR}/include
  ${CMAKE_CURRENT_BINARY_DIR}/misuse)
set_tests_properties(misuse PROPERTIES PROCESSORS 2)

# A light entry header stays light.
courier_test(layers COMMAND ${CMAKE_COMMAND} -DROOT=${PROJECT_SOURCE_DIR} -P ${CMAKE_CURRENT_SOURCE_DIR}/layers.cmake)
courier_test(layers_turned COMMAND ${CMAKE_COMMAND} -DROOT=${PROJECT_SOURCE_DIR}
  -DCHECK=${CMAKE_CURRENT_SOURCE_DIR}/layers.cmake -DSCRATCH=${CMAKE_CURRENT_BINARY_DIR}/layers_turned
  -P ${CMAKE_CURRENT_SOURCE_DIR}/layers_turned.cmake)

courier_test(light_headers COMMAND ${CMAKE_COMMAND}
  -DCOMPILER=${CMAKE_CXX_COMPILER} -DINCLUDE=${PROJECT_SOURCE_DIR}/include
  -P ${CMAKE_CURRENT_SOURCE_DIR}/light_headers.cmake)

# One header and one source file are the core.
courier_test(single_header COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/single_header/check
  ${CMAKE_CXX_COMPILER} ${PROJECT_SOURCE_DIR} ${CMAKE_CURRENT_BINARY_DIR}/single_header)

# What headers cost is within budgets; with one compiler, since ratios differ.
if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
  # Each program of the documents has all the headers that it needs.
  courier_test(documents_alone COMMAND ${CMAKE_COMMAND} -DALONE=ON
    -DCOMPILER=${CMAKE_CXX_COMPILER} -DROOT=${PROJECT_SOURCE_DIR} -DCHECKED=1
    -DSCRATCH=${CMAKE_CURRENT_BINARY_DIR}/documents_alone -P ${CMAKE_CURRENT_SOURCE_DIR}/documents.cmake TIMEOUT 900)
  courier_test(costs COMMAND ${CMAKE_CURRENT_SOURCE_DIR}/costs/check
    ${CMAKE_CXX_COMPILER} ${PROJECT_SOURCE_DIR}/include ${CMAKE_CURRENT_BINARY_DIR}/costs TIMEOUT 900)
endif()
