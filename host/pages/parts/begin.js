/* The bench begins: live, or with what the address says was played. */
at("speed").value = "1";
const begun = /[?&]replay=(\d+)/.exec(location.search);
if (begun) openReplay(begun[1]).catch(e => replayFailed(e.message));
else connect();
requestAnimationFrame(frame);
