# Completion of gyrolith for fish: gyrolith completion fish | source, or as completions/gyrolith.fish.
# The program is asked what can stand at the cursor. Nothing that stands on the line is run.
function __gyrolith_complete
	set -l words (commandline -opc)
	set -l program $words[1]
	set -e words[1]
	set -l current (commandline -ct | string replace -r '^["\']' '')
	set -l lines (command $program __complete fish $words "$current" 2>/dev/null)
	switch (string split -f1 \t -- $lines[1])
		case files
			__fish_complete_path (string split -f2 \t -- $lines[1])
		case folders
			__fish_complete_directories (string split -f2 \t -- $lines[1])
		case '*'
			set -e lines[1]
			printf '%s\n' $lines
	end
end
complete -c gyrolith -f -a '(__gyrolith_complete)'
