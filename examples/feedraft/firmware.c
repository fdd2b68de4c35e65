/* The feed raft is moved by the lexicon alone, by cable or by the receiver of its remote control. */
#include "board.h"
#include "feedraft.h"

static struct feedraft raft;

int main(void)
{
    void *port = board_start(raft.link, FEEDRAFT_LINKS, FEEDRAFT_BENCH_BAUD);
    if (!port || feedraft_init(&raft, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t wait = rlx_poll(&raft.device, board_millis());
        board_mask();
        if (rlx_idle(&raft.device)) board_sleep(wait);
        board_unmask();
    }
}
