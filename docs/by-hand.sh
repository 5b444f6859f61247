#!/bin/sh
# Wear Low tide
#
# Write ~/.profile
#     to take out XCURSOR_SIZE, which overrules what is set in files; seen: sign-in
# Write ~/.Xresources
#     to tell The display's pointer to use 32; seen: sign-in
# Write ~/.gtkrc-2.0
#     to tell GTK 2 programs to use Marram, and tell GTK 2 programs to use 32; seen: program restart
# Write ~/.config/gtk-3.0/settings.ini
#     to tell GTK 3 programs to use Marram; seen: program restart
# Write ~/.config/gtk-4.0/settings.ini
#     to tell GTK 4 programs to use 32; seen: program restart
# Write ~/.config/quayside/quayside.conf
#     to tell Quayside to use Marram; seen: shell restart
#
# Read it, then run it with sh as the person whose desk it is. It stops before
# the first change if anything is not as it was when this was written. What it
# replaces is kept; how to go back is said at the end.
#
# shellcheck disable=SC2016 # what is in single quotes is for the way back
set -eu
root=${ROOT:-} # set only where the system is not at /
: "$root"
kept=${XDG_STATE_HOME:-"$HOME/.local/state"}/ivelt/by-hand/747b448d594f2300

stop() { echo "$1 Nothing was changed." >&2; exit 1; }
is() { if [ ! -f "$2" ] || [ "$(sha256sum <"$2" | cut -d ' ' -f 1)" != "$1" ]; then stop "$2 is not as it was."; fi; }
none() { if [ -e "$1" ] || [ -L "$1" ]; then stop "There is something at $1 already."; fi; }
link() { if [ ! -L "$2" ] || [ "$(readlink "$2")" != "$1" ]; then stop "$2 is not the link it was."; fi; }

# Everything has to be as it was.
[ ! -e "$kept" ] || stop "This was run before: $kept is there."
is b2ac2187b0b8332ce7e6175ff6843cae38fb7e226872d01d52577ca72076cca8 "$HOME"/.profile
none "$HOME"/.Xresources
is 9c01745db1167259b90f51861855963a8d121b4e3e0aab5fec358499df3327b6 "$HOME"/.gtkrc-2.0
is 48ce79f51b7b1eb1fdc15e10978ce256bca3c4fc1c23748e650633326cb62e2b "$HOME"/.config/gtk-3.0/settings.ini
is 585dc87d78ba2bf786c0e58c0b3ae340ccac3d8bdb0d9f3cb9abe4641fd514b6 "$HOME"/.config/gtk-4.0/settings.ini
is a1864e19a53d875d689a2056b39a30cb41a76bb643431882b66734fadf55a091 "$HOME"/.config/quayside/quayside.conf

mkdir -p "$kept"
undo=$kept/undo.sh
steps=$kept/steps # the way back, the last change first
: >"$steps"
back() { printf '%s\n' "$1" | cat - "$steps" >"$steps.new" && mv "$steps.new" "$steps"; }
finish() {
	{
		echo '#!/bin/sh'
		echo 'set -eu'
		echo 'kept=$(cd "$(dirname "$0")" && pwd)'
		echo 'root=${ROOT:-}; : "$root"'
		echo 'same() { [ "$(sha256sum <"$2" | cut -d " " -f 1)" = "$1" ] || { echo "$2 was changed since, so it stays. Put it right by hand: the original is in $kept." >&2; exit 1; }; }'
		cat "$steps"
	} >"$undo"
}

# Write ~/.profile
cp -a "$HOME"/.profile "$kept/0"
back 'same 5b5c9888941cec4548b7875599b6883bd03b6b2f6e1f107824dfce8f743e7c0c "$HOME"/.profile; cp -a "$kept/0" "$HOME"/.profile'
finish
new="$HOME"/.profile.new-by-hand
cp -a "$HOME"/.profile "$new"
chmod u+w "$new"
cat >"$new" <<'END OF FILE'
# ~/.profile
END OF FILE
chmod 0644 "$new"
mv "$new" "$HOME"/.profile

# Write ~/.Xresources
back 'same e70199a6c24b5eb2189faa65f48f89e137451e2da644910c53c9b30d12886af4 "$HOME"/.Xresources; rm -f "$HOME"/.Xresources'
finish
new="$HOME"/.Xresources.new-by-hand
cat >"$new" <<'END OF FILE'
Xcursor.size: 32
END OF FILE
chmod 0644 "$new"
mv "$new" "$HOME"/.Xresources

# Write ~/.gtkrc-2.0
cp -a "$HOME"/.gtkrc-2.0 "$kept/2"
back 'same f0c9e458ce70e75260377ab0bbe2c35e4eb139a85a59d90e989cfc6d05c5a1c7 "$HOME"/.gtkrc-2.0; cp -a "$kept/2" "$HOME"/.gtkrc-2.0'
finish
new="$HOME"/.gtkrc-2.0.new-by-hand
cp -a "$HOME"/.gtkrc-2.0 "$new"
chmod u+w "$new"
cat >"$new" <<'END OF FILE'
# from the very old laptop
gtk-theme-name = "Saltpan"
gtk-icon-theme-name="Marram"

gtk-font-name = "Estuary Sans 10.5"
# scroll bars on the left, please
style "mine" { GtkScrolledWindow::scrollbar-spacing = 0 }
gtk-cursor-theme-size = 32
END OF FILE
chmod 0644 "$new"
mv "$new" "$HOME"/.gtkrc-2.0

# Write ~/.config/gtk-3.0/settings.ini
cp -a "$HOME"/.config/gtk-3.0/settings.ini "$kept/3"
back 'same 1408c64e2a21bc9e78dce7f14b9d938b31f590742c74407986d973f0b444246e "$HOME"/.config/gtk-3.0/settings.ini; cp -a "$kept/3" "$HOME"/.config/gtk-3.0/settings.ini'
finish
new="$HOME"/.config/gtk-3.0/settings.ini.new-by-hand
cp -a "$HOME"/.config/gtk-3.0/settings.ini "$new"
chmod u+w "$new"
cat >"$new" <<'END OF FILE'
# mine, do not let the installer touch this
[Settings]
gtk-theme-name=Saltpan
gtk-icon-theme-name = Marram
gtk-font-name=Estuary Sans 10.5


# bigger because of the far screen
gtk-cursor-theme-size=32
gtk-application-prefer-dark-theme=0
x-mara-note=ask Tobias about the scroll bars
END OF FILE
chmod 0644 "$new"
mv "$new" "$HOME"/.config/gtk-3.0/settings.ini

# Write ~/.config/gtk-4.0/settings.ini
cp -a "$HOME"/.config/gtk-4.0/settings.ini "$kept/4"
back 'same 86f68bc2a9ed5b6585ab863a238bdba4dbde3d808a7a6a92b12c194d038a8958 "$HOME"/.config/gtk-4.0/settings.ini; cp -a "$kept/4" "$HOME"/.config/gtk-4.0/settings.ini'
finish
new="$HOME"/.config/gtk-4.0/settings.ini.new-by-hand
cp -a "$HOME"/.config/gtk-4.0/settings.ini "$new"
chmod u+w "$new"
# Its line ends or signs are none that a script can hold, so it is encoded.
base64 -d >"$new" <<'END'
W1NldHRpbmdzXQ0KZ3RrLXRoZW1lLW5hbWU9U2FsdHBhbg0KZ3RrLWljb24tdGhlbWUtbmFtZT1N
YXJyYW0NCiMgY29waWVkIG92ZXIgZnJvbSB0aGUgb2xkIGxhcHRvcA0KDQpndGstZm9udC1uYW1l
PUVzdHVhcnkgU2FucyAxMQ0KZ3RrLWhpbnQtZm9udC1tZXRyaWNzPTENCmd0ay1jdXJzb3ItdGhl
bWUtc2l6ZT0zMg0K
END
chmod 0644 "$new"
mv "$new" "$HOME"/.config/gtk-4.0/settings.ini

# Write ~/.config/quayside/quayside.conf
cp -a "$HOME"/.config/quayside/quayside.conf "$kept/5"
back 'same 6e1ad41bca6422c987822984c46baef205acc95e9ee524c7d1ada68696329963 "$HOME"/.config/quayside/quayside.conf; cp -a "$kept/5" "$HOME"/.config/quayside/quayside.conf'
finish
new="$HOME"/.config/quayside/quayside.conf.new-by-hand
cp -a "$HOME"/.config/quayside/quayside.conf "$new"
chmod u+w "$new"
cat >"$new" <<'END OF FILE'
# Quayside reads this when you sign in.

[Look]
# icons=Foreshore
icons=Marram
theme=Saltpan
accent=#2f7f8c
font=Estuary Sans 10.5
opacity=88
blur=12
backdrop=/usr/share/backgrounds/low-water.svg

[Bar]
edge=top
thickness=36
pinned=shore-files;shore-web;shore-mail;shore-terminal;tide-gauge;bird-log;shore-music;tidewatch-lamp

[Wishes]
seconds-in-clock=please
END OF FILE
chmod 0644 "$new"
mv "$new" "$HOME"/.config/quayside/quayside.conf

echo "Done. To go back: sh $undo"
