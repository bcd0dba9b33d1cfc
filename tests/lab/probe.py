"""Sends first packets of flows from network namespaces and tells what arrived where, and who answered.

Standard input is JSON: {"hosts": [{"name", "netns"}], "flows": [{"from": host, "source", "destination", "proto",
"port", "own", "echo"}], "wait": seconds}. `own` is the port, or the identifier of an echo request, that it is sent
from. Standard output is JSON: for each flow {"arrived": [[host, source, destination, port]], "answered": bool}.
Packets are made by hand and listened to below IP, so no kernel beside the one under test has a say. Needs root;
standard library only.
"""
import ctypes, json, os, select, socket, struct, sys, time

LIBC = ctypes.CDLL(None, use_errno=True)
ETH_P_IP = 0x0800
PACKET_OUTGOING = 4


def enter(netns):
    fd = os.open('/run/netns/' + netns, 0)
    if LIBC.setns(fd, 0x40000000):
        raise OSError(ctypes.get_errno(), netns)
    os.close(fd)


def checksum(data):
    if len(data) % 2:
        data += b'\0'
    total = sum(struct.unpack('!%dH' % (len(data) // 2), data))
    total = (total >> 16) + (total & 0xFFFF)
    total += total >> 16
    return ~total & 0xFFFF


def packet(flow, number):
    tag = 0x6A670000 | number
    source, destination = socket.inet_aton(flow['source']), socket.inet_aton(flow['destination'])
    proto, port, sport = flow['proto'], flow.get('port', 0), flow['own']
    if flow.get('echo'):
        body = struct.pack('!BBHHHI', 8, 0, 0, sport, 1, tag) + bytes(12)
        body = body[:2] + struct.pack('!H', checksum(body)) + body[4:]
    elif proto == 6:
        body = struct.pack('!HHIIBBHHH', sport, port, tag, 0, 5 << 4, 2, 64240, 0, 0)
        pseudo = source + destination + struct.pack('!BBH', 0, 6, len(body))
        body = body[:16] + struct.pack('!H', checksum(pseudo + body)) + body[18:]
    elif proto == 17:
        body = struct.pack('!HHHHI', sport, port, 12, 0, tag)
        pseudo = source + destination + struct.pack('!BBH', 0, 17, len(body))
        body = body[:6] + struct.pack('!H', checksum(pseudo + body) or 0xFFFF) + body[8:]
    else:
        body = struct.pack('!I', tag) + bytes(8)
    head = struct.pack('!BBHHHBBH4s4s', 0x45, 0, 20 + len(body), number & 0xFFFF, 0, 64, proto, 0, source, destination)
    return head + body, tag


def main():
    job = json.load(sys.stdin)
    mine = os.open('/proc/self/ns/net', 0)
    listening, sending = {}, {}
    for host in job['hosts']:
        enter(host['netns'])
        tap = socket.socket(socket.AF_PACKET, socket.SOCK_DGRAM, socket.htons(ETH_P_IP))
        tap.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 1 << 22)
        tap.setblocking(False)
        raw = socket.socket(socket.AF_INET, socket.SOCK_RAW, socket.IPPROTO_RAW)
        listening[tap.fileno()] = (host['name'], tap)
        sending[host['name']] = raw
    LIBC.setns(mine, 0x40000000)
    results = [{'arrived': [], 'answered': False} for _ in job['flows']]
    tags = {}
    queue = []
    for number, flow in enumerate(job['flows']):
        data, tag = packet(flow, number)
        tags[tag] = number
        queue.append((number, flow, data))
    poll = select.epoll()
    for fd in listening:
        poll.register(fd, select.EPOLLIN)

    def hear(timeout):
        for fd, _ in poll.poll(timeout):
            name, tap = listening[fd]
            while True:
                try:
                    data, where = tap.recvfrom(2048)
                except BlockingIOError:
                    break
                if where[2] != PACKET_OUTGOING and len(data) >= 24:
                    note(name, data)

    def note(name, data):
        inner = data[(data[0] & 15) * 4:]
        proto = data[9]
        source, destination = socket.inet_ntoa(data[12:16]), socket.inet_ntoa(data[16:20])
        port = 0
        if proto == 6 and len(inner) >= 20:
            sport, port, sequence, acknowledged = struct.unpack('!HHII', inner[:12])
            flags = inner[13]
            number = tags.get(sequence)
            if number is not None and flags & 0x12 == 2:
                arrive(name, number, source, destination, port)
            number = tags.get((acknowledged - 1) & 0xFFFFFFFF)
            if number is not None and flags & 0x10:
                answer(name, number)
        elif proto == 1 and len(inner) >= 12:
            kind = inner[0]
            if kind in (0, 8):
                number = tags.get(struct.unpack('!I', inner[8:12])[0])
                if number is not None:
                    (arrive if kind == 8 else answer)(name, number, *([source, destination, 0] if kind == 8 else []))
            elif kind in (3, 11) and len(inner) >= 40:
                quoted = inner[8:]
                rest = quoted[(quoted[0] & 15) * 4:]
                for offset in (0, 8):
                    if len(rest) >= offset + 4:
                        number = tags.get(struct.unpack('!I', rest[offset:offset + 4])[0])
                        if number is not None and kind == 3 and inner[1] in (2, 3):
                            answer(name, number)
        elif proto == 17 and len(inner) >= 12:
            number = tags.get(struct.unpack('!I', inner[8:12])[0])
            if number is not None:
                port = struct.unpack('!H', inner[2:4])[0]
                if name == job['flows'][number]['from'] and port == job['flows'][number]['own']:
                    answer(name, number)
                else:
                    arrive(name, number, source, destination, port)
        elif len(inner) >= 4:
            number = tags.get(struct.unpack('!I', inner[:4])[0])
            if number is not None:
                arrive(name, number, source, destination, 0)

    def arrive(name, number, source, destination, port):
        seen = [name, source, destination, port]
        if seen not in results[number]['arrived']:
            results[number]['arrived'].append(seen)

    def answer(name, number):
        if name == job['flows'][number]['from']:
            results[number]['answered'] = True

    for count, (number, flow, data) in enumerate(queue):
        try:
            sending[flow['from']].sendto(data, (flow['destination'], 0))
        except OSError:
            pass
        if count % 16 == 15:
            hear(0)
    end = time.time() + job['wait']
    while time.time() < end:
        hear(max(0.0, end - time.time()))
    json.dump(results, sys.stdout)


main()
