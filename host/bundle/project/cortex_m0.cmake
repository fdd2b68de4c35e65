
# The same for a Cortex-M0 with the registers of an nRF51: build/chip.elf. Your chip's port goes here.
add_custom_command(
  OUTPUT ${CMAKE_BINARY_DIR}/chip.elf
  COMMAND ${RLX} emit --bundle --port cortex_m0 ${CMAKE_SOURCE_DIR}/@NAME@.lexicon -o ${CMAKE_BINARY_DIR}/chip
  COMMAND arm-none-eabi-gcc -mcpu=cortex-m0 -mthumb -std=c11 -ffreestanding -Os -Wall -Wextra
    -ffunction-sections -fdata-sections -Ichip ${CMAKE_SOURCE_DIR}/firmware.c chip/@NAME@.c chip/port_cortex_m0.c
    -nostdlib -Wl,--gc-sections -T chip/nrf51.ld -lgcc -o chip.elf
  COMMAND arm-none-eabi-size chip.elf
  WORKING_DIRECTORY ${CMAKE_BINARY_DIR}
  DEPENDS firmware.c @NAME@.lexicon VERBATIM)
add_custom_target(chip ALL DEPENDS ${CMAKE_BINARY_DIR}/chip.elf)
