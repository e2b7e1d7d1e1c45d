# SPDX-License-Identifier: GPL-3.0-or-later
# Holds the folders of a library to the folders that they may use. All folders share one include root, so the link alone does not refuse an include.

# Refuses the includes of `sources` that lead to a folder beneath `root` other than `name` and those in `uses`. `root` is what stands before the
# folder in an include: "" for `#include "optics/profile.h"`, "studio/" for `#include "studio/fleet/merge.h"`.
function(optrel_check_includes name root uses sources)
  foreach(source IN LISTS sources)
    file(STRINGS ${source} includes REGEX "^#include \"${root}[a-z]+/")
    foreach(line IN LISTS includes)
      string(REGEX REPLACE "^#include \"${root}([a-z]+)/.*" "\\1" folder "${line}")
      if(NOT folder STREQUAL name AND NOT folder IN_LIST uses)
        message(FATAL_ERROR "${source} includes ${root}${folder}, which ${root}${name} does not declare in USES.")
      endif()
    endforeach()
  endforeach()
endfunction()
