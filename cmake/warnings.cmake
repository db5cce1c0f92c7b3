# Warnings are errors in our own code; the kernel's headers are system headers and stay quiet.
add_library(rasoir_warnings INTERFACE)
target_compile_options(rasoir_warnings INTERFACE -Wall -Wextra -Wpedantic -Wshadow -Wnon-virtual-dtor
  -Woverloaded-virtual -Wimplicit-fallthrough -Werror
  # GCC 12 sees overruns in std::string that are not there (its bugs 105329 and 105651): said, but no error.
  -Wno-error=array-bounds -Wno-error=stringop-overflow -Wno-error=restrict
  # Sources that are compiled several at a time are all "included", which this warning takes for headers.
  -Wno-subobject-linkage)
