"""A page that looks at a call hears what happens while its version is being read, too."""

import asyncio
from concurrent.futures import ThreadPoolExecutor

import pytest

from keen_coil.web.routes.live import BEAT_S, CallBells

CALL = 7


@pytest.mark.parametrize(
    ("meanwhile", "told"),
    [
        (lambda bells, loop: loop.call_soon_threadsafe(bells.ring, CALL), ["data: 1", "data: 2"]),
        (lambda bells, loop: bells.close(), ["data: 1", "over"]),
    ],
    ids=["another act", "the server stops"],
)
def test_what_happens_while_the_version_is_read_is_heard_at_once(meanwhile, told):
    bells, versions = CallBells(), [1, 2]

    async def listen():
        loop = asyncio.get_running_loop()

        def version_of(call):
            if len(versions) == 2:
                meanwhile(bells, loop)
            return versions.pop(0)

        events = bells.changes(CALL, version_of)
        return [await anext(events, "over") for _ in told]

    with ThreadPoolExecutor(1) as thread:  # a browser's test may have left a loop on this one
        heard = thread.submit(asyncio.run, asyncio.wait_for(listen(), BEAT_S / 2)).result()
    assert all(part in event for part, event in zip(told, heard, strict=True)), heard
