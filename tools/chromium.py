"""How Debian's Chromium is started here: it draws WebGL in software and looks nothing up."""

PATH = "/usr/bin/chromium"
ARGUMENTS = [
    "--no-sandbox",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
]
