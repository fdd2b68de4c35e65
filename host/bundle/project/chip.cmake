
# The same for @CHIP@: build/chip.elf. Your chip's port goes here.
add_custom_command(
  OUTPUT ${CMAKE_BINARY_DIR}/chip.elf
  COMMAND ${RLX} emit --bundle --port @PORT@ ${CMAKE_SOURCE_DIR}/@NAME@.lexicon -o ${CMAKE_BINARY_DIR}/chip
  COMMAND @TOOLS@-gcc @OPTIONS@
    -std=c11 -ffreestanding -Os -Wall -Wextra -ffunction-sections -fdata-sections -Ichip
    ${CMAKE_SOURCE_DIR}/firmware.c chip/@NAME@.c chip/port_@PORT@.c @LINK@ -Wl,--gc-sections -lgcc -o chip.elf
  COMMAND @TOOLS@-size chip.elf
  WORKING_DIRECTORY ${CMAKE_BINARY_DIR}
  DEPENDS firmware.c @NAME@.lexicon VERBATIM)
add_custom_target(chip ALL DEPENDS ${CMAKE_BINARY_DIR}/chip.elf)
