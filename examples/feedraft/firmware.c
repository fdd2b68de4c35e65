/* The feed raft: the lexicon alone moves it, by cable or by its remote control. */
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
