"""Puts 802.1Q sub-interfaces on trunks of network namespaces, where the kernel has none: tc clsact with BPF.

Standard input is JSON: [{"netns", "trunk", "vid", "port"}]. What arrives on the trunk with that tag is untagged and
leaves by the port; what arrives by the port is tagged and leaves by the trunk. The port is one end of a veth pair, the
other end is the sub-interface. Needs root; standard library only.
"""
import ctypes, json, os, struct, subprocess, sys

LIBC = ctypes.CDLL(None, use_errno=True)
PINS = '/run/jolly-gate-bpf'
SYS_BPF, PROG_LOAD, OBJ_PIN, SCHED_CLS = 321, 5, 6, 3
# Offsets in struct __sk_buff, and helpers by number (linux/bpf.h).
VLAN_PRESENT, VLAN_TCI = 20, 24
VLAN_PUSH, VLAN_POP, REDIRECT = 18, 19, 23
ETH_P_8021Q = 0x0081  # 0x8100 in network order on a little-endian machine


def bpf(command, attributes):
    buffer = ctypes.create_string_buffer(attributes, len(attributes))
    result = LIBC.syscall(SYS_BPF, command, buffer, len(attributes))
    if result < 0:
        raise OSError(ctypes.get_errno(), os.strerror(ctypes.get_errno()))
    return result


def instruction(op, dst=0, src=0, offset=0, value=0):
    return struct.pack('<BBhi', op, dst | src << 4, offset, value)


def load_word(dst, src, offset): return instruction(0x61, dst, src, offset)
def set_value(dst, value): return instruction(0xB7, dst, 0, 0, value)
def copy(dst, src): return instruction(0xBF, dst, src)
def keep_bits(dst, mask): return instruction(0x57, dst, 0, 0, mask)
def skip_if_equal(dst, value, count): return instruction(0x15, dst, 0, count, value)
def skip_unless_equal(dst, value, count): return instruction(0x55, dst, 0, count, value)
def call(helper): return instruction(0x85, 0, 0, 0, helper)
END = instruction(0x95)


def redirect(index):
    return [set_value(1, index), set_value(2, 0), call(REDIRECT), END]


def untag(vid, index):
    act = [copy(1, 6), call(VLAN_POP)] + redirect(index)
    pick = [load_word(2, 1, VLAN_TCI), keep_bits(2, 0xFFF), skip_unless_equal(2, vid, len(act))]
    look = [copy(6, 1), load_word(2, 1, VLAN_PRESENT), skip_if_equal(2, 0, len(pick) + len(act))]
    return look + pick + act + [set_value(0, -1), END]


def tag(vid, index):
    return [set_value(2, ETH_P_8021Q), set_value(3, vid), call(VLAN_PUSH)] + redirect(index)


def pinned(name, instructions):
    code = b''.join(instructions)
    held = ctypes.create_string_buffer(code, len(code))
    licence, log = ctypes.create_string_buffer(b'GPL'), ctypes.create_string_buffer(65536)
    address = ctypes.addressof
    fd = bpf(PROG_LOAD, struct.pack('<IIQQIIQII16s', SCHED_CLS, len(code) // 8, address(held), address(licence), 1,
                                    len(log), address(log), 0, 0, b'tag'))
    path = f'{PINS}/{name}'
    if os.path.exists(path):
        os.unlink(path)
    text = ctypes.create_string_buffer(path.encode())
    bpf(OBJ_PIN, struct.pack('<QII', address(text), fd, 0))
    os.close(fd)
    return path


def main():
    os.makedirs(PINS, exist_ok=True)
    if not os.path.ismount(PINS):
        subprocess.check_call(['mount', '-t', 'bpf', 'none', PINS])
    wanted = json.load(sys.stdin)
    batches, pins = {}, []
    indexes, ready = {}, set()
    for number, want in enumerate(wanted):
        netns, trunk, vid, port = want['netns'], want['trunk'], want['vid'], want['port']
        if netns not in indexes:
            links = json.loads(subprocess.check_output(['ip', '-n', netns, '-j', 'link']))
            indexes[netns] = {link['ifname']: link['ifindex'] for link in links}
        lines = batches.setdefault(netns, [])
        for device in (trunk, port):
            if (netns, device) not in ready:
                ready.add((netns, device))
                lines.append(f'qdisc add dev {device} clsact')
        pins += [pinned(f'{os.getpid()}-{number}-u', untag(vid, indexes[netns][port])),
                 pinned(f'{os.getpid()}-{number}-t', tag(vid, indexes[netns][trunk]))]
        lines += [f'filter add dev {trunk} ingress prio {vid} bpf da object-pinned {pins[-2]}',
                  f'filter add dev {port} ingress bpf da object-pinned {pins[-1]}']
    for netns, lines in batches.items():
        subprocess.run(['tc', '-n', netns, '-batch', '-'], input='\n'.join(lines) + '\n', text=True, check=True)
    # The filters hold the programs; their names are needed no more.
    for pin in pins:
        os.unlink(pin)


main()
