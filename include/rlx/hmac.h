/* HMAC with SHA-256 for seals: RFC 2104, FIPS 180-4. The library has it in software. A port whose
 * chip computes SHA-256 can have it instead: compile everything with -DRLX_PORT_HMAC=1, and write
 * the three functions. Main loop only; the memory is the caller's. */
#ifndef RLX_HMAC_H
#define RLX_HMAC_H

#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

#define RLX_HMAC_BYTES      8u  /* of the code in a frame: the first ones of 32 */
#define RLX_HMAC_CHARACTERS 11u /* that they become: RFC 4648, base64url, without padding */
#define RLX_HMAC_KEY_LEAST  20u /* characters of a key */
#define RLX_HMAC_KEY_MOST   32u

#ifndef RLX_PORT_HMAC
#define RLX_PORT_HMAC 0
#endif

/* A code in the making. The port's own may use `state` and `block` as it likes. */
struct rlx_hmac {
    uint32_t state[8], block[16];
    uint16_t count;
    uint8_t key_count; /* 1..RLX_HMAC_KEY_MOST bytes */
    const uint8_t *key;
};

#if RLX_PORT_HMAC
/* The key stays where it is until rlx_hmac_end(). At most 1000 bytes are added. */
void rlx_hmac_begin(struct rlx_hmac *hmac, const uint8_t *key, uint8_t count);
void rlx_hmac_add(struct rlx_hmac *hmac, uint8_t byte);
void rlx_hmac_end(struct rlx_hmac *hmac, uint8_t mac[RLX_HMAC_BYTES]);
#endif

#ifdef __cplusplus
}
#endif

#endif
