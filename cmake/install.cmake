# find_package(WiredCourier), and pkg-config for builds without CMake.
#
# A checked library and the one for release are two kinds; both can be installed
# under one prefix, in either order, and have each its own names there.

include(CMakePackageConfigHelpers)

set(kind plain)
set(checked_value 0)
set(kind_suffix "")
if(WIRED_COURIER_CHECKED)
  set(kind checked)
  set(checked_value 1)
  set(kind_suffix _checked)
endif()
set(ledger_value 0)
if(WIRED_COURIER_LEDGER)
  set(ledger_value 1)
endif()

# Every install is part of a component, so that each can be a package of its own (cmake/packages.cmake).
set(components data recording wiring gateway ferry)
list(JOIN components "|" component_pattern)
set(pc_link "") # as the target hands it on
if(CMAKE_SYSTEM_NAME STREQUAL "Linux" AND NOT CMAKE_BUILD_TYPE STREQUAL "Debug")
  set(pc_link " -Wl,--gc-sections")
endif()
install(DIRECTORY include/courier DESTINATION ${CMAKE_INSTALL_INCLUDEDIR} COMPONENT core
  REGEX "/courier/(${component_pattern})$" EXCLUDE)
if(TARGET courier_tool)
  # The short name beside it, where no other package has it.
  set(bin ${CMAKE_INSTALL_BINDIR})
  install(PROGRAMS $<TARGET_FILE:courier_tool> DESTINATION ${bin} RENAME wired-courier COMPONENT tool)
  install(CODE "set(link \"\$ENV{DESTDIR}\${CMAKE_INSTALL_PREFIX}/${bin}/courier\")
    if(IS_SYMLINK \"\${link}\" OR NOT EXISTS \"\${link}\")
      file(CREATE_LINK wired-courier \"\${link}\" SYMBOLIC)
    endif()" COMPONENT tool)
endif()

# wired_courier_install(TARGET COMPONENT): library, CMake's description and pkg-config's.
set(package_dir ${CMAKE_INSTALL_LIBDIR}/cmake/WiredCourier)
file(RELATIVE_PATH pc_to_prefix /prefix/${CMAKE_INSTALL_LIBDIR}/pkgconfig /prefix) # so that an installation can be moved
function(wired_courier_install target component)
  set_target_properties(${target} PROPERTIES
    OUTPUT_NAME ${target}${kind_suffix} EXPORT_NAME ${component}_${kind})
  install(TARGETS ${target} EXPORT WiredCourier_${component}_${kind}
    LIBRARY COMPONENT libraries NAMELINK_COMPONENT ${component} ARCHIVE COMPONENT ${component} RUNTIME COMPONENT libraries)
  install(EXPORT WiredCourier_${component}_${kind} NAMESPACE WiredCourier:: DESTINATION ${package_dir}
    COMPONENT ${component})
  string(REPLACE "_" "-" pc_suffix "${kind_suffix}")
  set(pc_name wired-courier${pc_suffix})
  if(NOT component STREQUAL "core")
    set(pc_name wired-courier-${component}${pc_suffix})
  endif()
  configure_file(cmake/wired-courier-${component}.pc.in ${pc_name}.pc @ONLY)
  install(FILES ${CMAKE_CURRENT_BINARY_DIR}/${pc_name}.pc DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig
    COMPONENT ${component})
endfunction()

wired_courier_install(wired_courier_core core)
foreach(component IN LISTS components)
  if(TARGET wired_courier_${component})
    wired_courier_install(wired_courier_${component} ${component})
    install(DIRECTORY include/courier/${component} DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/courier
      COMPONENT ${component})
  endif()
endforeach()

# For debuggers. The namespace in the natvis file has the digit of include/courier/config.hpp for programs with exceptions.
math(EXPR options "4 * ${checked_value} + 2 * ${ledger_value} + 1")
set(namespace v${PROJECT_VERSION_MAJOR}_${PROJECT_VERSION_MINOR}_${options})
configure_file(tools/debuggers/wired-courier.natvis.in wired-courier${kind_suffix}.natvis @ONLY)
install(FILES tools/debuggers/wired_courier_gdb.py ${CMAKE_CURRENT_BINARY_DIR}/wired-courier${kind_suffix}.natvis
  DESTINATION ${CMAKE_INSTALL_DATADIR}/wired-courier COMPONENT core)

configure_package_config_file(cmake/WiredCourierConfig.cmake.in WiredCourierConfig.cmake
  INSTALL_DESTINATION ${package_dir})
write_basic_package_version_file(WiredCourierConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES
  ${CMAKE_CURRENT_BINARY_DIR}/WiredCourierConfig.cmake
  ${CMAKE_CURRENT_BINARY_DIR}/WiredCourierConfigVersion.cmake
  DESTINATION ${package_dir} COMPONENT core)
install(DIRECTORY docs examples DESTINATION ${CMAKE_INSTALL_DOCDIR} COMPONENT docs EXCLUDE_FROM_ALL)
install(FILES README.md CHANGELOG.md LICENSE DESTINATION ${CMAKE_INSTALL_DOCDIR} COMPONENT docs EXCLUDE_FROM_ALL)
