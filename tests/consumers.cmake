# Use from another project: installed, through pkg-config and Meson, and a new game of the tool's; and, where the library
# is compiled once more, as a subdirectory, fetched, and with both kinds at once.
set(ways)
if(WIRED_COURIER_TEST_USE)
  list(APPEND ways package pkgconfig)
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
endif()
if(WIRED_COURIER_TEST_SOURCE_USE)
  list(APPEND ways subdirectory fetched both_kinds)
endif()
foreach(way IN LISTS ways)
  courier_test(consumer/${way} COMMAND ${CMAKE_COMMAND}
    -DWAY=${way} -DCOMPILER=${CMAKE_CXX_COMPILER} -DFLAGS=${CMAKE_CXX_FLAGS} -DROOT=${PROJECT_SOURCE_DIR}
    -DBUILD=${PROJECT_BINARY_DIR} -DLIBDIR=${CMAKE_INSTALL_LIBDIR} -DBUILD_TYPE=${CMAKE_BUILD_TYPE}
    -DCHECKED=$<BOOL:${WIRED_COURIER_CHECKED}>
    -DSCRATCH=${CMAKE_CURRENT_BINARY_DIR}/consumer_${way} "-DCCACHE=${WIRED_COURIER_CCACHE}"
    -P ${CMAKE_CURRENT_SOURCE_DIR}/consumers/check.cmake)
endforeach()
