[ "$(tty)" = /dev/tty1 ] && exec startx >"$HOME/.startx.log" 2>&1
