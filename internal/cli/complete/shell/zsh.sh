#compdef gyrolith
# Completion of gyrolith for zsh: source <(gyrolith completion zsh), or as the file _gyrolith in a folder of $fpath.
# The program is asked what can stand at the cursor. Nothing that stands on the line is run.
_gyrolith() {
	local -a lines candidates shown
	local line kind
	lines=("${(@f)$("${(Q)words[1]}" __complete zsh "${(@Q)words[2,CURRENT-1]}" "${(Q)PREFIX}" 2>/dev/null)}")
	kind="${lines[1]%%$'\t'*}"
	[[ "$PREFIX" == --*=* && "$kind" == f* ]] && compset -P '*='
	case "$kind" in
	files) _files ;;
	folders) _files -/ ;;
	*)
		for line in "${(@)lines[2,-1]}"; do
			candidates+=("${line%%$'\t'*}")
			shown+=("${line/$'\t'/  -- }")
		done
		if [[ "$kind" == open ]]; then
			compadd -S '' -l -d shown -a candidates
		else
			compadd -l -d shown -a candidates
		fi
		;;
	esac
}
if [ "$funcstack[1]" = "_gyrolith" ]; then
	_gyrolith "$@"
else
	compdef _gyrolith gyrolith
fi
