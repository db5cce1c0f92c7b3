# Warnings are errors in our own code; the kernel's headers are system headers and stay quiet.
add_library(rasoir_warnings INTERFACE)
target_compile_options(rasoir_warnings INTERFACE -Wall -Wextra -Wpedantic -Wshadow -Wnon-virtual-dtor
  -Woverloaded-virtual -Wimplicit-fallthrough -Werror)
