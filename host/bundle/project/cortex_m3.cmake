
# The same for a Cortex-M3 with the registers of an LM3S6965: build/chip.elf. Your chip's port goes here.
add_custom_command(
  OUTPUT ${CMAKE_BINARY_DIR}/chip.elf
  COMMAND ${RLX} emit --bundle --port cortex_m3 ${CMAKE_SOURCE_DIR}/@NAME@.lexicon -o ${CMAKE_BINARY_DIR}/chip
  COMMAND arm-none-eabi-gcc -mcpu=cortex-m3 -mthumb -std=c11 -ffreestanding -Os -Wall -Wextra
    -ffunction-sections -fdata-sections -Ichip ${CMAKE_SOURCE_DIR}/firmware.c chip/@NAME@.c chip/port_cortex_m3.c
    -nostdlib -Wl,--gc-sections -T chip/lm3s6965.ld -lgcc -o chip.elf
  COMMAND arm-none-eabi-size chip.elf
  WORKING_DIRECTORY ${CMAKE_BINARY_DIR}
  DEPENDS firmware.c @NAME@.lexicon VERBATIM)
add_custom_target(chip ALL DEPENDS ${CMAKE_BINARY_DIR}/chip.elf)
