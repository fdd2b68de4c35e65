/* avr_board ELF SOCKET: a firmware for the ATmega328P on the simulator's chip (libsimavr), with
 * USART0 on a socket in the file system, for one program at a time. SIGUSR1 resets it; its EEPROM
 * stays.
 */
#include <poll.h>
#include <signal.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <unistd.h>

#include <simavr/avr_ioport.h>
#include <simavr/avr_timer.h>
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
    if (client >= 0 && send(client, &byte, 1, MSG_NOSIGNAL) != 1) {} /* nobody hears it */
}

static void on_room(struct avr_irq_t *irq, uint32_t value, void *user)
{
    (void)irq, (void)value;
    ready = user != NULL;
}

static int listen_at(const char *path)
{
    struct sockaddr_un at = {.sun_family = AF_UNIX};
    int server = socket(AF_UNIX, SOCK_STREAM, 0);
    snprintf(at.sun_path, sizeof at.sun_path, "%s", path);
    if (bind(server, (struct sockaddr *)&at, sizeof at) != 0 || listen(server, 1) != 0) {
        perror(path);
        exit(2);
    }
    return server;
}

/* Somebody comes, says a byte, or leaves. */
static void look(int server, struct avr_irq_t *in)
{
    struct pollfd has = {.fd = client < 0 ? server : client, .events = POLLIN};
    uint8_t byte;
    if (!ready || poll(&has, 1, 0) <= 0) return;
    if (client < 0) {
        client = accept(server, NULL, NULL);
    } else if (read(client, &byte, 1) == 1) {
        avr_raise_irq(in, byte);
    } else {
        close(client);
        client = -1;
    }
}

/* The reset pin. */
static volatile sig_atomic_t resets;

static void on_signal(int number)
{
    (void)number;
    resets = 1;
}

/* A wire from a pin, which a timer's compare may drive, to another one. */
static void join(avr_t *avr, char timer, int compare, char port, int pin, char to_port, int to_pin)
{
    avr_irq_t *to = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(to_port), to_pin);
    avr_connect_irq(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(port), pin), to);
    avr_connect_irq(avr_io_getirq(avr, AVR_IOCTL_TIMER_GETIRQ(timer), TIMER_IRQ_OUT_COMP + compare),
                    to);
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
    join(avr, '0', 0, 'D', 6, 'D', 4); /* as ports/avr/selftest_avr.h has it */
    join(avr, '1', 1, 'B', 2, 'D', 5);
    int server = listen_at(argv[2]);
    client = accept(server, NULL, NULL); /* it is switched on when somebody listens */
    signal(SIGUSR1, on_signal);
    for (unsigned n = 0;; n++) {
        if (resets) avr_reset(avr), resets = 0;
        int state = avr_run(avr);
        if (state == cpu_Done || state == cpu_Crashed) return 1;
        if (n % LOOK == 0 || state == cpu_Sleeping) look(server, in);
    }
}
