"""The socket that pages are served on."""

import asyncio
import socket
from concurrent.futures import ThreadPoolExecutor

from gaitwire.web.serving import listen


def test_answers_go_out_at_once():
    """Small packets are not held back (TCP_NODELAY), which only asyncio can set and only where it knows it is TCP."""
    found = []

    async def meet():
        def came(_, writer):
            found.append(writer.get_extra_info("socket").getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY))
            writer.close()

        sock = listen(0)
        async with await asyncio.start_server(came, sock=sock):
            reader, writer = await asyncio.open_connection(*sock.getsockname())
            await reader.read()
            writer.close()

    with ThreadPoolExecutor() as aside:  # where no other loop runs
        aside.submit(lambda: asyncio.run(meet())).result()
    assert found == [1]
