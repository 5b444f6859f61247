# Lists the values of settings files as Python's own parsers read them: json, tomllib,
# PyYAML, expat. Reads lines "form path", writes for each a line of JSON: a list of
# [group, key, text], or null for a file that the parser refuses.
import json
import sys
import tomllib
import xml.parsers.expat

import yaml


def step(name):
    return name.replace("~", "~0").replace("/", "~1")


def join(group, name):
    return group + "/" + name if group else name


def flatten(value, group, out, top=True, key=""):
    inner = group if top else join(group, key)
    if isinstance(value, Pairs):
        for k, v in value.pairs:
            flatten(v, inner, out, False, step(k))
    elif isinstance(value, dict):
        for k, v in value.items():
            flatten(v, inner, out, False, step(k))
    elif isinstance(value, list):
        for i, v in enumerate(value):
            flatten(v, inner, out, False, str(i))
    elif top:
        raise ValueError("one value alone")
    else:
        if value is None:
            value = ""
        elif isinstance(value, bool):
            value = "true" if value else "false"
        elif not isinstance(value, (str, int)):
            value = "a moment"
        out.append([group, key, str(value)])


class Pairs:
    def __init__(self, pairs):
        self.pairs = pairs


def from_json(b):
    out = []
    flatten(json.loads(b.decode(), parse_int=str, parse_float=str, object_pairs_hook=Pairs), "", out)
    return out


def from_toml(b):
    out = []
    flatten(tomllib.loads(b.decode(), parse_float=lambda s: s.replace("_", "")), "", out)
    return out


def from_yaml(b):
    out, seen = [], set()

    def walk(node, group, key, top=False):
        if id(node) in seen:
            return
        seen.add(id(node))
        inner = group if top else join(group, key)
        if isinstance(node, yaml.MappingNode):
            for k, v in node.value:
                if isinstance(k, yaml.ScalarNode):
                    walk(v, inner, step(k.value))
        elif isinstance(node, yaml.SequenceNode):
            for i, v in enumerate(node.value):
                walk(v, inner, str(i))
        elif top:
            raise ValueError("one value alone")
        else:
            out.append([group, key, node.value])

    docs = yaml.compose_all(b.decode(), Loader=yaml.SafeLoader)
    first = next(docs, None)
    if first is not None and not (isinstance(first, yaml.ScalarNode) and first.value == ""):
        walk(first, "", "", True)
    return out


def from_xml(b):
    out, stack = [], [{"way": "", "seen": {}, "children": 0}]
    p = xml.parsers.expat.ParserCreate()
    p.ordered_attributes = True
    p.buffer_text = True

    def start(name, attrs):
        up = stack[-1]
        up["children"] += 1
        pairs = list(zip(attrs[::2], attrs[1::2]))
        own = step(name)
        for telling in ("name", "id", "key"):
            said = [v for k, v in pairs if k == telling and v]
            if said:
                own += "[@%s='%s']" % (telling, step(said[0]))
                break
        up["seen"][own] = up["seen"].get(own, 0) + 1
        if up["seen"][own] > 1:
            own += "[%d]" % up["seen"][own]
        way = join(up["way"], own)
        for k, v in pairs:
            out.append([way, "@" + step(k), v])
        stack.append({"way": way, "own": own, "seen": {}, "children": 0, "text": ""})

    def end(_):
        e = stack.pop()
        if not e["children"]:
            text = e["text"]
            out.append([stack[-1]["way"], e["own"], text.strip(" \t\r\n") or text])

    def text(data):
        if len(stack) > 1:
            stack[-1]["text"] += data

    p.StartElementHandler, p.EndElementHandler, p.CharacterDataHandler = start, end, text
    p.Parse(b, True)
    return out


readers = {"json": from_json, "toml": from_toml, "yaml": from_yaml, "xml": from_xml}
for line in sys.stdin:
    form, path = line.rstrip("\n").split(" ", 1)
    with open(path, "rb") as f:
        b = f.read()
    try:
        said = readers[form](b)
    except Exception:
        said = None
    print(json.dumps(said))
