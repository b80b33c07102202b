# Flags shared by every target of ours; third-party headers come in as SYSTEM.
add_library(bonemoss_flags INTERFACE)
target_compile_options(bonemoss_flags INTERFACE
  -Wall -Wextra -Wno-missing-field-initializers -Wpedantic -Wshadow -Wconversion -Wno-sign-conversion -Wold-style-cast
  -Wnon-virtual-dtor -Woverloaded-virtual -Werror -Wno-stringop-overflow -Wno-array-bounds
  -march=x86-64-v2 -fno-math-errno -fno-trapping-math -ffp-contract=off)
if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
  target_compile_options(bonemoss_flags INTERFACE -fpch-preprocess) # ccache needs it
endif()
set(CMAKE_CXX_FLAGS_RELEASE "-O3")
target_compile_definitions(bonemoss_flags INTERFACE BONEMOSS_VERSION="${PROJECT_VERSION}")
if(BONEMOSS_SANITIZE)
  target_compile_options(bonemoss_flags INTERFACE -UNDEBUG -Wno-error) # assertions stay on; instrumented code has warnings of its own
  target_compile_definitions(bonemoss_flags INTERFACE BONEMOSS_SANITIZE)
endif()
if(BONEMOSS_SANITIZE STREQUAL "address")
  target_compile_options(bonemoss_flags INTERFACE -fsanitize=address,undefined -fno-omit-frame-pointer)
  target_link_options(bonemoss_flags INTERFACE -fsanitize=address,undefined)
elseif(BONEMOSS_SANITIZE STREQUAL "fuzz")
  target_compile_options(bonemoss_flags INTERFACE -fsanitize=address,undefined,fuzzer-no-link -fno-sanitize-recover=undefined -Wno-error -Wno-unknown-warning-option)
  target_link_options(bonemoss_flags INTERFACE -fsanitize=address,undefined)
elseif(BONEMOSS_SANITIZE STREQUAL "thread")
  target_compile_options(bonemoss_flags INTERFACE -fsanitize=thread)
  target_compile_definitions(bonemoss_flags INTERFACE BONEMOSS_PLAIN_THREADS)
  target_link_options(bonemoss_flags INTERFACE -fsanitize=thread)
endif()

# Code whose loops are not hot is compiled for the builder's patience: several files at once, at the level given (-O2, -O1).
function(bonemoss_compile_together target batch level)
  set_target_properties(${target} PROPERTIES UNITY_BUILD ON UNITY_BUILD_BATCH_SIZE ${batch})
  if(NOT BONEMOSS_SANITIZE)
    target_compile_options(${target} PRIVATE $<$<CONFIG:Release>:${level}>)
  endif()
endfunction()

# bonemoss_module(NAME DEPENDS...): one static library of src/core/NAME over the modules before it.
function(bonemoss_module name)
  file(GLOB_RECURSE sources CONFIGURE_DEPENDS ${CMAKE_CURRENT_SOURCE_DIR}/${name}/*.cpp)
  add_library(bonemoss_${name} STATIC ${sources})
  target_include_directories(bonemoss_${name} PUBLIC ${CMAKE_SOURCE_DIR}/src/core)
  target_link_libraries(bonemoss_${name} PUBLIC bonemoss_flags)
  foreach(dependency ${ARGN})
    if(TARGET bonemoss_${dependency})
      target_link_libraries(bonemoss_${name} PUBLIC bonemoss_${dependency})
    else()
      target_link_libraries(bonemoss_${name} PRIVATE ${dependency})
    endif()
  endforeach()
endfunction()
