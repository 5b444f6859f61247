#!/usr/bin/python
# SPDX-License-Identifier: MIT
"""Dresses one home with Ivelt: what changed, check mode and diff are as Ivelt tells them."""

import json
import os
import pwd
import shutil

from ansible.module_utils.basic import AnsibleModule

DOCUMENTATION = r"""
module: ivelt
short_description: Dress a home with Ivelt
options:
  outfit: {description: Path of the outfit file on the host., required: true, type: path}
  home: {description: The home to dress; without it that of the person the task runs as., type: path}
  program: {description: Ivelt itself., type: str, default: ivelt}
  markets: {description: Addresses or folders of markets that have what is missing., type: list, elements: str}
  copies: {description: Take copies of what the system's packages have., type: bool, default: false}
  strict: {description: Fail where a part of the look cannot be told to a program., type: bool, default: false}
"""


def environment(home):
    """The environment of a home's programs, and what has to stand before the command."""
    env = dict(HOME=home)
    for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME", "XDG_STATE_HOME"):
        env[name] = ""
    uid = os.getuid()
    own = os.path.realpath(pwd.getpwuid(uid).pw_dir) == os.path.realpath(home)
    bus = "/run/user/%d/bus" % uid
    if own and os.path.exists(bus):  # the person is signed in: their programs are told at once
        env["XDG_RUNTIME_DIR"] = os.path.dirname(bus)
        env["DBUS_SESSION_BUS_ADDRESS"] = "unix:path=" + bus
        return env, []
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "DBUS_SESSION_BUS_ADDRESS", "XDG_RUNTIME_DIR"):
        env[name] = ""
    alone = shutil.which("dbus-run-session")
    return env, [alone, "--"] if alone else []


def main():
    module = AnsibleModule(
        argument_spec=dict(
            outfit=dict(type="path", required=True),
            home=dict(type="path"),
            program=dict(type="str", default="ivelt"),
            markets=dict(type="list", elements="str", default=[]),
            copies=dict(type="bool", default=False),
            strict=dict(type="bool", default=False),
        ),
        supports_check_mode=True,
    )
    want = module.params
    home = want["home"] or pwd.getpwuid(os.getuid()).pw_dir
    if not os.path.isdir(home):
        module.fail_json(msg="%s is no home" % home)
    env, before = environment(home)
    check = ["--check"] if module.check_mode else []

    def ivelt(*args):
        code, out, err = module.run_command(before + [want["program"]] + list(args) + ["--own"] + check, environ_update=env)
        if code > 1:  # 1: something is amiss, which is told
            said = [line for line in err.strip().splitlines() if line.startswith("ivelt: ")]
            module.fail_json(msg=(said or [err.strip() or "ivelt ended with %d" % code])[-1], rc=code)
        return out

    get = ["outfit", "get", want["outfit"]]
    for market in want["markets"]:
        get += ["--market", market]
    if want["copies"]:
        get.append("--copies")
    got = [line for line in ivelt(*get).splitlines() if line.startswith("got: ") or line.startswith("would get: ")]
    answer = json.loads(ivelt("apply", "--outfit", want["outfit"], "--json"))
    blocked = [b["why"] for b in answer["blocked"]]
    if blocked and want["strict"]:
        module.fail_json(msg="; ".join(blocked), blocked=blocked)
    module.exit_json(
        changed=bool(got) or answer["changed"],
        got=got,
        blocked=blocked,
        diff=[dict(before_header=d["path"], after_header=d["path"], before=d["before"], after=d["after"]) for d in answer["diff"]],
    )


if __name__ == "__main__":
    main()
