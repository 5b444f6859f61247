# ~/.profile: for login shells
if [ -n "$BASH_VERSION" ]; then
    . "$HOME/.bashrc"
fi
  export  QT_STYLE_OVERRIDE=fusion # for now
PATH="$HOME/bin:$PATH"
QT_STYLE_OVERRIDE="windows"; export QT_STYLE_OVERRIDE
export EDITOR=ed