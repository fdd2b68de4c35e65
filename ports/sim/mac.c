/* The MAC of the simulated board.
 * mbed TLS computes it.
 * A chip's port brings its own. */
#include <mbedtls/md.h>
#include <string.h>

#include "rlx/port.h"

/* Keys of the simulation; a board has its own. */
static const unsigned char keys[][16] = {"simulated key 00", "simulated key 01"};

bool rlx_port_mac(void *port, uint8_t key, const uint8_t *bytes, size_t count, uint8_t mac[8])
{
    unsigned char sum[32];
    (void)port;
    if (key >= sizeof keys / sizeof *keys ||
        mbedtls_md_hmac(mbedtls_md_info_from_type(MBEDTLS_MD_SHA256), keys[key], sizeof keys[key],
                        bytes, count, sum) != 0)
        return false;
    memcpy(mac, sum, 8);
    return true;
}
