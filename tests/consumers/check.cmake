cmake_minimum_required(VERSION 3.25)
# Builds and runs a tiny project that uses the library in one WAY.
file(REMOVE_RECURSE ${SCRATCH})
file(MAKE_DIRECTORY ${SCRATCH})
set(here ${CMAKE_CURRENT_LIST_DIR})

function(run)
  execute_process(COMMAND ${ARGN} RESULT_VARIABLE failed OUTPUT_VARIABLE said ERROR_VARIABLE said)
  if(failed)
    message(FATAL_ERROR "${ARGN}\nfailed:\n${said}")
  endif()
  set(said "${said}" PARENT_SCOPE)
endfunction()

if(NOT WAY STREQUAL "subdirectory")
  run(${CMAKE_COMMAND} --install ${BUILD} --prefix ${SCRATCH}/installed)
endif()

if(WAY STREQUAL "pkgconfig")
  set(ENV{PKG_CONFIG_PATH} ${SCRATCH}/installed/${LIBDIR}/pkgconfig)
  run(pkg-config --cflags --libs wired-courier)
  string(STRIP "${said}" options)
  separate_arguments(options)
  separate_arguments(FLAGS)
  run(${COMPILER} ${FLAGS} ${here}/main.cpp ${options} -o ${SCRATCH}/consumer)
  run(${SCRATCH}/consumer)
else()
  if(CCACHE) # as the project's own build has it
    set(ENV{CCACHE_BASEDIR} ${ROOT})
    set(ENV{CCACHE_NOHASHDIR} 1)
    set(launcher -DCMAKE_CXX_COMPILER_LAUNCHER=${CCACHE})
  endif()
  run(${CMAKE_COMMAND} -G Ninja ${launcher} -S ${here}/${WAY} -B ${SCRATCH}/build -DCMAKE_CXX_COMPILER=${COMPILER}
    -DCMAKE_CXX_FLAGS=${FLAGS} -DCMAKE_BUILD_TYPE=${BUILD_TYPE}
    -DWIRED_COURIER_ROOT=${ROOT} -DCMAKE_PREFIX_PATH=${SCRATCH}/installed)
  run(${CMAKE_COMMAND} --build ${SCRATCH}/build)
  run(${SCRATCH}/build/consumer)
endif()
