# The page that a gateway shows and a report contains: made by page/build, and embedded. Without npm, or where npm cannot get
# its packages, the library has no page, and everything else.

# wired_courier_add_page(TARGET)
function(wired_courier_add_page target)
  set(document ${CMAKE_CURRENT_BINARY_DIR}/page_document.cpp)
  find_program(WIRED_COURIER_NPM npm)
  set(made ${WIRED_COURIER_ROOT}/page/made.cpp) # in a source archive (scripts/archive)
  if(WIRED_COURIER_BUILD_PAGE AND EXISTS ${made})
    configure_file(${made} ${document} COPYONLY)
  elseif(WIRED_COURIER_BUILD_PAGE AND WIRED_COURIER_NPM)
    file(GLOB_RECURSE page_sources CONFIGURE_DEPENDS ${WIRED_COURIER_ROOT}/page/src/* ${WIRED_COURIER_ROOT}/page/teller/*
      ${WIRED_COURIER_ROOT}/page/package*.json)
    # What the teller is compiled from.
    file(GLOB_RECURSE teller_sources CONFIGURE_DEPENDS ${WIRED_COURIER_ROOT}/src/base/* ${WIRED_COURIER_ROOT}/src/data/*
      ${WIRED_COURIER_ROOT}/src/recording/* ${WIRED_COURIER_ROOT}/include/courier/data/*
      ${WIRED_COURIER_ROOT}/include/courier/recording/* ${WIRED_COURIER_ROOT}/include/courier/books.hpp)
    add_custom_command(OUTPUT ${document}
      COMMAND ${WIRED_COURIER_ROOT}/page/build ${document}
      DEPENDS ${page_sources} ${teller_sources} ${WIRED_COURIER_ROOT}/page/build ${WIRED_COURIER_ROOT}/page/bundle.mjs
      COMMENT "Building the page" VERBATIM)
  else()
    if(WIRED_COURIER_BUILD_PAGE)
      message(STATUS "Wired Courier: npm was not found, so the gateway is built without its page")
    endif()
    configure_file(${WIRED_COURIER_ROOT}/page/no_page.cpp ${document} COPYONLY)
  endif()
  target_sources(${target} PRIVATE ${document})
endfunction()
