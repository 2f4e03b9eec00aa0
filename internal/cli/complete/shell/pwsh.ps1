# Completion of gyrolith for PowerShell: gyrolith completion pwsh | Out-String | Invoke-Expression
# The program is asked what can stand at the cursor. Files are PowerShell's own; nothing on the line is run.
Register-ArgumentCompleter -Native -CommandName gyrolith -ScriptBlock {
	param($wordToComplete, $commandAst, $cursorPosition)
	$words = @($commandAst.CommandElements | Select-Object -Skip 1 |
		Where-Object { $_.Extent.EndOffset -lt $cursorPosition } | ForEach-Object { $_.ToString().Trim("'", '"') })
	$program = $commandAst.CommandElements[0].ToString()
	$lines = @(& $program __complete pwsh @words $wordToComplete 2>$null)
	if ($lines.Count -lt 1 -or $lines[0] -match '^(files|folders)') { return }
	$lines | Select-Object -Skip 1 | ForEach-Object {
		$word, $about = $_ -split "`t", 2
		if (-not $about) { $about = $word }
		$typed = if ($word -match '[\s'']') { "'" + ($word -replace "'", "''") + "'" } else { $word }
		[System.Management.Automation.CompletionResult]::new($typed, $word, 'ParameterValue', $about)
	}
}
