
# The same for a Cortex-M3 with the registers of an LM3S6965. Your chip's port goes here.
build/chip.elf: firmware.c @NAME@.lexicon
	$(RLX) emit --bundle --port cortex_m3 @NAME@.lexicon -o build/chip
	arm-none-eabi-gcc -mcpu=cortex-m3 -mthumb -std=c11 -ffreestanding -Os -Wall -Wextra -ffunction-sections \
	    -fdata-sections -Ibuild/chip firmware.c build/chip/@NAME@.c build/chip/port_cortex_m3.c -nostdlib \
	    -Wl,--gc-sections -T build/chip/lm3s6965.ld -lgcc -o $@
	arm-none-eabi-size $@
