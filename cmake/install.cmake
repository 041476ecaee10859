# find_package(WiredCourier), and pkg-config for builds without CMake.

include(CMakePackageConfigHelpers)

install(TARGETS wired_courier_core EXPORT WiredCourierTargets)
install(DIRECTORY include/courier DESTINATION ${CMAKE_INSTALL_INCLUDEDIR})
if(TARGET courier_tool)
  install(TARGETS courier_tool)
endif()

set(package_dir ${CMAKE_INSTALL_LIBDIR}/cmake/WiredCourier)
install(EXPORT WiredCourierTargets NAMESPACE WiredCourier:: DESTINATION ${package_dir})
if(TARGET wired_courier_recording)
  install(TARGETS wired_courier_recording EXPORT WiredCourierRecordingTargets)
  install(EXPORT WiredCourierRecordingTargets NAMESPACE WiredCourier:: DESTINATION ${package_dir})
endif()
configure_package_config_file(cmake/WiredCourierConfig.cmake.in WiredCourierConfig.cmake
  INSTALL_DESTINATION ${package_dir})
write_basic_package_version_file(WiredCourierConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES
  ${CMAKE_CURRENT_BINARY_DIR}/WiredCourierConfig.cmake
  ${CMAKE_CURRENT_BINARY_DIR}/WiredCourierConfigVersion.cmake
  DESTINATION ${package_dir})

set(checked_value 0)
if(WIRED_COURIER_CHECKED)
  set(checked_value 1)
endif()
set(ledger_value 0)
if(WIRED_COURIER_LEDGER)
  set(ledger_value 1)
endif()
# Relative, so that an installation can be moved.
file(RELATIVE_PATH pc_to_prefix /prefix/${CMAKE_INSTALL_LIBDIR}/pkgconfig /prefix)
configure_file(cmake/wired-courier.pc.in wired-courier.pc @ONLY)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/wired-courier.pc DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig)
