# Other builds of the core.
add_subdirectory(modules)

# Without exceptions and run-time type information.
wired_courier_add_core(courier_core_plain STATIC)
add_executable(no_exceptions_test no_exceptions.cpp)
target_compile_options(courier_core_plain PUBLIC -fno-exceptions -fno-rtti)
target_link_libraries(no_exceptions_test PRIVATE courier_core_plain)
wired_courier_warnings(courier_core_plain)
wired_courier_warnings(no_exceptions_test)
courier_test(no_exceptions COMMAND no_exceptions_test)
