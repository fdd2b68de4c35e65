
# The same for a RISC-V with the devices of QEMU's virt machine: build/chip.elf. Your chip's port goes here.
add_custom_command(
  OUTPUT ${CMAKE_BINARY_DIR}/chip.elf
  COMMAND ${RLX} emit --bundle --port riscv ${CMAKE_SOURCE_DIR}/@NAME@.lexicon -o ${CMAKE_BINARY_DIR}/chip
  COMMAND riscv64-unknown-elf-gcc -march=rv32imac -misa-spec=2.2 -mabi=ilp32 -msmall-data-limit=0 -std=c11 -ffreestanding -Os -Wall -Wextra
    -ffunction-sections -fdata-sections -Ichip ${CMAKE_SOURCE_DIR}/firmware.c chip/@NAME@.c chip/port_riscv.c
    -nostdlib -Wl,--gc-sections,--no-warn-rwx-segments -T chip/virt.ld -lgcc -o chip.elf
  COMMAND riscv64-unknown-elf-size chip.elf
  WORKING_DIRECTORY ${CMAKE_BINARY_DIR}
  DEPENDS firmware.c @NAME@.lexicon VERBATIM)
add_custom_target(chip ALL DEPENDS ${CMAKE_BINARY_DIR}/chip.elf)
