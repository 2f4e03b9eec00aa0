# Completion of gyrolith for bash, from 3.2 on, with or without the package bash-completion:
#   source <(gyrolith completion bash)
# The program is asked what can stand at the cursor. Nothing that stands on the line is run.
_gyrolith() {
	local program="${1/#\~/$HOME}" kind="" prefix="" line
	COMPREPLY=()
	while IFS= read -r line; do
		if [ -z "$kind" ]; then
			kind="${line%%	*}" prefix="${line#*	}"
		else
			COMPREPLY+=("$line")
		fi
	done < <("$program" __complete bash "$COMP_LINE" "$COMP_POINT" 2>/dev/null)
	case "$kind" in
	open) compopt -o nospace 2>/dev/null ;;
	files | folders)
		local action=-f
		[ "$kind" = folders ] && action=-d
		compopt -o filenames 2>/dev/null
		while IFS= read -r line; do COMPREPLY+=("$line"); done < <(compgen "$action" -- "$prefix")
		;;
	esac
}
complete -F _gyrolith gyrolith
