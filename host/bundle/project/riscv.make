
# The same for a RISC-V with the devices of QEMU's virt machine. Your chip's port goes here.
build/chip.elf: firmware.c @NAME@.lexicon
	$(RLX) emit --bundle --port riscv @NAME@.lexicon -o build/chip
	riscv64-unknown-elf-gcc -march=rv32imac -misa-spec=2.2 -mabi=ilp32 -msmall-data-limit=0 -std=c11 -ffreestanding -Os -Wall -Wextra -ffunction-sections \
	    -fdata-sections -Ibuild/chip firmware.c build/chip/@NAME@.c build/chip/port_riscv.c -nostdlib \
	    -Wl,--gc-sections,--no-warn-rwx-segments -T build/chip/virt.ld -lgcc -o $@
	riscv64-unknown-elf-size $@
