"""slow.py HOST PORT SECONDS: what ssh calls as its ProxyCommand (ssh_config(5)) for a link of this time there and back."""
import os
import queue
import socket
import sys
import threading
import time

host, port, there_and_back = sys.argv[1], int(sys.argv[2]), float(sys.argv[3])
link = socket.create_connection((host, port))
link.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)


def way(read, write):
    """Hands on what comes, each piece half the time later; ends with what it reads from."""
    pieces = queue.Queue()

    def reading():
        while True:
            piece = read()
            pieces.put((time.monotonic() + there_and_back / 2, piece))
            if not piece:
                return

    threading.Thread(target=reading, daemon=True).start()
    while True:
        due, piece = pieces.get()
        time.sleep(max(0, due - time.monotonic()))
        if not piece:
            return
        write(piece)


def out(piece):
    while piece:
        piece = piece[os.write(1, piece) :]


def going():
    way(lambda: os.read(0, 65536), link.sendall)
    link.shutdown(socket.SHUT_WR)


# The connection itself is begun by the first packet, which takes the way there and back.
time.sleep(there_and_back)
threading.Thread(target=going, daemon=True).start()
way(lambda: link.recv(65536), out)
