# Tests that are about compiling; one build with each compiler is enough for them.

# Every header compiles alone.
file(GLOB_RECURSE headers CONFIGURE_DEPENDS RELATIVE ${PROJECT_SOURCE_DIR}/include ${PROJECT_SOURCE_DIR}/include/*.hpp)
set(header_units)
foreach(header IN LISTS headers)
  string(REPLACE "/" "_" unit ${header})
  set(unit ${CMAKE_CURRENT_BINARY_DIR}/headers/${unit}.cpp)
  file(CONFIGURE OUTPUT ${unit} CONTENT "#include <${header}>\n#include <${header}>\n")
  list(APPEND header_units ${unit})
endforeach()
add_library(headers_alone OBJECT ${header_units})
target_link_libraries(headers_alone PRIVATE WiredCourier::kit)
wired_courier_warnings(headers_alone)

# What must not compile, and what the compiler must say.
file(GLOB misuse CONFIGURE_DEPENDS misuse/*.cpp)
foreach(source IN LISTS misuse)
  get_filename_component(name ${source} NAME_WE)
  add_test(NAME misuse/${name} COMMAND ${CMAKE_COMMAND}
    -DCOMPILER=${CMAKE_CXX_COMPILER} -DSOURCE=${source} -DINCLUDE=${PROJECT_SOURCE_DIR}/include
    -P ${CMAKE_CURRENT_SOURCE_DIR}/misuse/check.cmake)
endforeach()

# A light entry header stays light.
add_test(NAME light_headers COMMAND ${CMAKE_COMMAND}
  -DCOMPILER=${CMAKE_CXX_COMPILER} -DINCLUDE=${PROJECT_SOURCE_DIR}/include
  -P ${CMAKE_CURRENT_SOURCE_DIR}/light_headers.cmake)

# The code in the documents compiles as it stands and prints what they say.
add_test(NAME documents COMMAND ${CMAKE_COMMAND}
  -DCOMPILER=${CMAKE_CXX_COMPILER} -DFLAGS=${CMAKE_CXX_FLAGS} -DROOT=${PROJECT_SOURCE_DIR}
  -DLIBRARY=$<TARGET_FILE:wired_courier_core> -DCHECKED=$<BOOL:${WIRED_COURIER_CHECKED}>
  -DSCRATCH=${CMAKE_CURRENT_BINARY_DIR}/documents -P ${CMAKE_CURRENT_SOURCE_DIR}/documents.cmake)

# Use from another project: installed, as a subdirectory, and through pkg-config.
set(ways package subdirectory pkgconfig)
if(TARGET wired_courier_kit)
  list(APPEND ways kit)
endif()
foreach(way IN LISTS ways)
  add_test(NAME consumer/${way} COMMAND ${CMAKE_COMMAND}
    -DWAY=${way} -DCOMPILER=${CMAKE_CXX_COMPILER} -DFLAGS=${CMAKE_CXX_FLAGS} -DROOT=${PROJECT_SOURCE_DIR}
    -DBUILD=${PROJECT_BINARY_DIR} -DLIBDIR=${CMAKE_INSTALL_LIBDIR} -DBUILD_TYPE=${CMAKE_BUILD_TYPE}
    -DSCRATCH=${CMAKE_CURRENT_BINARY_DIR}/consumer_${way}
    -P ${CMAKE_CURRENT_SOURCE_DIR}/consumers/check.cmake)
endforeach()
