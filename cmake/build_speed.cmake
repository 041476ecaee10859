# What makes builds faster; it changes nothing of what is built.

option(WIRED_COURIER_BULK_BUILD
  "Compile many files of a target at once: less to do from scratch, more after a change" ON)

# Debian's ccache is used where it is installed, unless another launcher is set. Set up so that another clone hits what
# this one has compiled: paths below the source folder are made relative, and folders do not count.
if(PROJECT_IS_TOP_LEVEL AND NOT DEFINED CMAKE_CXX_COMPILER_LAUNCHER)
  find_program(WIRED_COURIER_CCACHE ccache DOC "Where ccache is, if it is")
  if(WIRED_COURIER_CCACHE)
    set(CMAKE_CXX_COMPILER_LAUNCHER ${CMAKE_COMMAND} -E env
      CCACHE_BASEDIR=${PROJECT_SOURCE_DIR} CCACHE_NOHASHDIR=1 ${WIRED_COURIER_CCACHE})
  endif()
endif()

# Debug builds are linked by gold where it is installed: fifty programs in half of the time.
if(PROJECT_IS_TOP_LEVEL AND CMAKE_BUILD_TYPE STREQUAL "Debug" AND CMAKE_SYSTEM_NAME STREQUAL "Linux")
  include(CheckLinkerFlag)
  check_linker_flag(CXX -fuse-ld=gold WIRED_COURIER_HAS_GOLD)
  if(WIRED_COURIER_HAS_GOLD)
    add_link_options(-fuse-ld=gold)
  endif()
endif()

# wired_courier_in_bulk(TARGET)
function(wired_courier_in_bulk target)
  if(WIRED_COURIER_BULK_BUILD)
    set_target_properties(${target} PROPERTIES UNITY_BUILD ON UNITY_BUILD_BATCH_SIZE 0) # 0: all in one
    if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
      # Of coroutines in files that are compiled together, which g++ takes for headers.
      target_compile_options(${target} PRIVATE -Wno-subobject-linkage)
    endif()
  endif()
endfunction()

# wired_courier_precompile(TARGET HEADER...): for targets of many files that cannot be compiled together.
function(wired_courier_precompile target)
  if(WIRED_COURIER_BULK_BUILD)
    target_precompile_headers(${target} PRIVATE ${ARGN})
    # ccache has given objects that fitted an older precompiled header.
    set_target_properties(${target} PROPERTIES CXX_COMPILER_LAUNCHER "")
  endif()
endfunction()
