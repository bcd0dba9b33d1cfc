"""Sends first packets of flows from network namespaces and tells what arrived where, and who answered.

Standard input is JSON: {"hosts": [{"name", "netns"}], "flows": [{"from": host, "source", "destination", "proto",
"port", "own", "echo"}], "wait": seconds}. `own` is the port, or the identifier of an echo request, that it is sent
from. Standard output is JSON: for each flow {"arrived": [[host, source, destination, port]], "answered": bool}.
Packets are made by hand and listened to below IP, so no kernel beside the one under test has a say. Needs root;
standard library only.
"""
import ctypes, json, os, select, socket, struct, sys, time

LIBC = ctypes.CDLL(None, use_errno=True)
ETH_P_IP, ETH_P_IPV6 = 0x0800, 0x86DD
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


def pseudo(source, destination, proto, length):
    if len(source) == 4:
        return source + destination + struct.pack('!BBH', 0, proto, length)
    return source + destination + struct.pack('!II', length, proto)


def packet(flow, number):
    tag = 0x6A670000 | number
    six = ':' in flow['source']
    family = socket.AF_INET6 if six else socket.AF_INET
    source, destination = (socket.inet_pton(family, flow[end]) for end in ('source', 'destination'))
    proto, port, sport = flow['proto'], flow.get('port', 0), flow['own']
    summed = None
    if flow.get('echo'):
        body = struct.pack('!BBHHHI', 128 if six else 8, 0, 0, sport, 1, tag) + bytes(12)
        summed = 2
    elif proto == 6:
        body = struct.pack('!HHIIBBHHH', sport, port, tag, 0, 5 << 4, 2, 64240, 0, 0)
        summed = 16
    elif proto == 17:
        body = struct.pack('!HHHHI', sport, port, 12, 0, tag)
        summed = 6
    else:
        body = struct.pack('!I', tag) + bytes(8)
    if summed is not None:
        over = b'' if flow.get('echo') and not six else pseudo(source, destination, proto, len(body))
        total = checksum(over + body) or (0xFFFF if proto == 17 else 0)
        body = body[:summed] + struct.pack('!H', total) + body[summed + 2:]
    if six:
        head = struct.pack('!IHBB', 6 << 28, len(body), proto, 64) + source + destination
    else:
        head = struct.pack('!BBHHHBBH4s4s', 0x45, 0, 20 + len(body), number & 0xFFFF, 0, 64, proto, 0, source, destination)
    return head + body, tag


def main():
    job = json.load(sys.stdin)
    mine = os.open('/proc/self/ns/net', 0)
    listening, sending = {}, {}
    for host in job['hosts']:
        enter(host['netns'])
        for kind in (ETH_P_IP, ETH_P_IPV6):
            tap = socket.socket(socket.AF_PACKET, socket.SOCK_DGRAM, socket.htons(kind))
            tap.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 1 << 22)
            tap.setblocking(False)
            listening[tap.fileno()] = (host['name'], tap)
        sending[host['name']] = [
            socket.socket(family, socket.SOCK_RAW, socket.IPPROTO_RAW) for family in (socket.AF_INET, socket.AF_INET6)
        ]
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

    def ends(data):
        """Protocol, source, destination and what is behind the header."""
        if data[0] >> 4 == 6:
            return data[6], socket.inet_ntop(socket.AF_INET6, data[8:24]), socket.inet_ntop(socket.AF_INET6, data[24:40]), data[40:]
        return data[9], socket.inet_ntoa(data[12:16]), socket.inet_ntoa(data[16:20]), data[(data[0] & 15) * 4:]

    def note(name, data):
        six = data[0] >> 4 == 6
        proto, source, destination, inner = ends(data)
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
        elif proto == (58 if six else 1) and len(inner) >= 12:
            kind = inner[0]
            ask, reply = (128, 129) if six else (8, 0)
            if kind in (ask, reply):
                number = tags.get(struct.unpack('!I', inner[8:12])[0])
                if number is not None:
                    (arrive if kind == ask else answer)(name, number, *([source, destination, 0] if kind == ask else []))
            elif (kind in (1, 4) if six else kind in (3, 11)) and len(inner) >= (60 if six else 40):
                rest = ends(inner[8:])[3]
                # Nobody listens, or the protocol is unknown: the host itself said so.
                own = (kind, inner[1]) in ((1, 4), (4, 1)) if six else kind == 3 and inner[1] in (2, 3)
                for offset in (0, 8):
                    if len(rest) >= offset + 4:
                        number = tags.get(struct.unpack('!I', rest[offset:offset + 4])[0])
                        if number is not None and own:
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
            sending[flow['from']][':' in flow['destination']].sendto(data, (flow['destination'], 0))
        except OSError:
            pass
        if count % 16 == 15:
            hear(0)
    end = time.time() + job['wait']
    while time.time() < end:
        hear(max(0.0, end - time.time()))
    json.dump(results, sys.stdout)


main()
