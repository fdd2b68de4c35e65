/* avr_board ELF SOCKET: a firmware for the ATmega328P on the simulator's chip (libsimavr), with
 * USART0 on a socket in the file system. It starts when somebody connects, and ends when he leaves.
 */
#include <poll.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <unistd.h>

#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>

#define LOOK 2000u /* instructions between two looks at the socket */

static int client = -1;
static bool ready = true; /* the receiver has room */

static void on_byte(struct avr_irq_t *irq, uint32_t value, void *user)
{
    uint8_t byte = (uint8_t)value;
    (void)irq, (void)user;
    if (write(client, &byte, 1) != 1) exit(0);
}

static void on_room(struct avr_irq_t *irq, uint32_t value, void *user)
{
    (void)irq, (void)value;
    ready = user != NULL;
}

static void wait_for_client(const char *path)
{
    struct sockaddr_un at = {.sun_family = AF_UNIX};
    int server = socket(AF_UNIX, SOCK_STREAM, 0);
    snprintf(at.sun_path, sizeof at.sun_path, "%s", path);
    if (bind(server, (struct sockaddr *)&at, sizeof at) != 0 || listen(server, 1) != 0 ||
        (client = accept(server, NULL, NULL)) < 0) {
        perror(path);
        exit(2);
    }
}

static void look(struct avr_irq_t *in)
{
    struct pollfd has = {.fd = client, .events = POLLIN};
    uint8_t byte;
    if (!ready || poll(&has, 1, 0) <= 0) return;
    if (read(client, &byte, 1) != 1) exit(0);
    avr_raise_irq(in, byte);
}

int main(int argc, char **argv)
{
    elf_firmware_t firmware = {.frequency = 16000000};
    if (argc != 3 || elf_read_firmware(argv[1], &firmware) != 0) return 2;
    avr_t *avr = avr_make_mcu_by_name("atmega328p");
    avr_init(avr);
    firmware.frequency = 16000000;
    avr_load_firmware(avr, &firmware);
    uint32_t flags = 0;
    avr_ioctl(avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
    flags &= ~(uint32_t)(AVR_UART_FLAG_STDIO | AVR_UART_FLAG_POLL_SLEEP);
    avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
    avr_irq_t *in = avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT),
                            on_byte, NULL);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XON),
                            on_room, avr);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XOFF),
                            on_room, NULL);
    wait_for_client(argv[2]);
    for (unsigned n = 0;; n++) {
        int state = avr_run(avr);
        if (state == cpu_Done || state == cpu_Crashed) return 1;
        if (n % LOOK == 0 || state == cpu_Sleeping) look(in);
    }
}
