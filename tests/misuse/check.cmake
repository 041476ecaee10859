cmake_minimum_required(VERSION 3.25)
# Compiles one file and looks for what its first line expects the compiler to say.
# Needs COMPILER, SOURCE, INCLUDE.
file(STRINGS ${SOURCE} lines LIMIT_COUNT 1)
string(REGEX REPLACE "^// expect: " "" expected "${lines}")
execute_process(
  COMMAND ${COMPILER} -std=c++20 -fsyntax-only -Wall -Wextra -Werror -I${INCLUDE} ${SOURCE}
  RESULT_VARIABLE failed ERROR_VARIABLE said OUTPUT_VARIABLE said)
if(expected STREQUAL "nothing")
  if(failed)
    message(FATAL_ERROR "does not compile, but should:\n${said}")
  endif()
  return()
endif()
if(NOT failed)
  message(FATAL_ERROR "compiles, but should not; expected: ${expected}")
endif()
if(NOT said MATCHES "${expected}")
  message(FATAL_ERROR "does not say '${expected}', but:\n${said}")
endif()
string(REGEX MATCH "[^\n]*${expected}[^\n]*" line "${said}")
message(STATUS "${line}")
