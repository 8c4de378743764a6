"""An office suite, headless, that opens, edits, saves and closes one file at an address, over UNO.

Told as JSON, one line each: whether it could be opened to be changed, what it says, what was saved.
Usage: office.py ADDRESS ACCOUNT SECRET PROFILE PORT [SENTENCE ...] - a save for each sentence; a line on
standard input is waited for before it closes.
"""
import json
import subprocess
import sys
import time

import uno
from com.sun.star.beans import PropertyValue

address, account, secret, profile, port, *sentences = sys.argv[1:]


def tell(**facts):
    print(json.dumps(facts), flush=True)


def named(name, value):
    made = PropertyValue()
    made.Name, made.Value = name, value
    return made


def connect():
    local = uno.getComponentContext()
    resolver = local.ServiceManager.createInstanceWithContext("com.sun.star.bridge.UnoUrlResolver", local)
    for _ in range(240):
        try:
            return resolver.resolve(f"uno:socket,host=127.0.0.1,port={port};urp;StarOffice.ComponentContext")
        except Exception:
            time.sleep(0.25)
    raise SystemExit("the office suite did not start")


suite = subprocess.Popen(
    ["soffice", "--headless", "--norestore", "--nologo", "--nodefault", f"-env:UserInstallation=file://{profile}",
     f"--accept=socket,host=127.0.0.1,port={port};urp;"],
    stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
try:
    context = connect()
    make = lambda name: context.ServiceManager.createInstanceWithContext(name, context)
    desktop = make("com.sun.star.frame.Desktop")
    usual = make("com.sun.star.task.InteractionHandler")
    passwords = make("com.sun.star.task.PasswordContainer")
    passwords.add("/".join(address.split("/")[:3]), account, (secret,), usual)
    opening = [named("Hidden", True), named("InteractionHandler", usual)]
    document = desktop.loadComponentFromURL(address, "_blank", 0, tuple(opening))
    tell(opened=document is not None)
    if not document:
        # Locked by another, and nobody here to say that it is to be read only.
        opening.append(named("ReadOnly", True))
        document = desktop.loadComponentFromURL(address, "_blank", 0, tuple(opening))
    tell(readOnly=document.isReadonly(), text=document.Text.getString())
    for sentence in sentences:
        document.Text.insertString(document.Text.getEnd(), sentence, False)
        document.store()
        tell(saved=sentence)
    sys.stdin.readline()
    document.close(True)
    tell(closed=True)
    desktop.terminate()
finally:
    try:
        suite.wait(100)
    except subprocess.TimeoutExpired:
        suite.kill()
