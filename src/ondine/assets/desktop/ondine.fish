# Completion of ondine for fish.
set -l commands forecast notation preview import export import-table xmp report rescue find match backup merge
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a forecast -d 'Print what a recipe will do'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a notation -d 'Read a sequence written as one line'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a preview -d 'Trace the picture that a recipe will give'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a import -d 'Log picture files'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a export -d 'Write the log as a table, JSON or database'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a import-table -d 'Take in shots from a table of others'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a xmp -d 'Write sidecars beside the pictures'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a report -d 'Write the report of a sitting'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a rescue -d 'Save what can be read of a damaged logbook'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a find -d 'Find shots by a line of words'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a match -d 'Match a card to the shots by their times'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a backup -d 'Keep a copy of a logbook, or put one back'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -a merge -d 'Bring the shots of another logbook into one'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -l demo -d 'Open the demo'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -l practice -d 'Open the practice logbook'
complete -c ondine -n "not __fish_seen_subcommand_from export rescue forecast" -l logbook -r -d 'Logbook to open or begin'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -l folder -x -a '(__fish_complete_directories)' -d 'Folder that pictures arrive in'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -l theme -x -a 'day dark-room'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -l screenshot -r -d 'Draw a view into a file'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -l view -x -a 'bench start close-up times coach map practice log log-table atlas timings compare film import in-and-out sitting shapes keys card safe rig valve liquid frame flash freeze expose colour trigger dials keep'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -l size -x
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -l install-desktop -d 'Menu entry, icons, file types for this user'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -l remove-desktop -d 'Take them away'
complete -c ondine -n "not __fish_seen_subcommand_from $commands" -l version
complete -c ondine -n "__fish_seen_subcommand_from forecast" -l json
complete -c ondine -n "__fish_seen_subcommand_from notation" -l to -x
complete -c ondine -n "__fish_seen_subcommand_from notation" -l json
complete -c ondine -n "__fish_seen_subcommand_from notation" -l recipe -r
complete -c ondine -n "__fish_seen_subcommand_from preview" -l at -x -d 'One flash at this time [ms]'
complete -c ondine -n "__fish_seen_subcommand_from preview" -l out -r
complete -c ondine -n "__fish_seen_subcommand_from preview" -l size -x
complete -c ondine -n "__fish_seen_subcommand_from export" -l csv -r
complete -c ondine -n "__fish_seen_subcommand_from export" -l json -r
complete -c ondine -n "__fish_seen_subcommand_from export" -l sqlite -r
complete -c ondine -n "__fish_seen_subcommand_from import-table" -l map -x -d 'What a column means'
complete -c ondine -n "__fish_seen_subcommand_from import-table" -l dates -x -a 'day-first month-first'
complete -c ondine -n "__fish_seen_subcommand_from import-table" -l json
complete -c ondine -n "__fish_seen_subcommand_from import-table" -l apply -d 'Take the shots in'
complete -c ondine -n "__fish_seen_subcommand_from xmp" -l names -x -a 'stem full'
complete -c ondine -n "__fish_seen_subcommand_from xmp" -l to -x -a '(__fish_complete_directories)'
complete -c ondine -n "__fish_seen_subcommand_from xmp" -l json
complete -c ondine -n "__fish_seen_subcommand_from report" -l pdf -r
complete -c ondine -n "__fish_seen_subcommand_from report" -l sitting -x
complete -c ondine -n "__fish_seen_subcommand_from export" -l to -x -d 'Tell the times so as well'
complete -c ondine -n "__fish_seen_subcommand_from rescue" -l to -r
complete -c ondine -n "__fish_seen_subcommand_from find" -l json
complete -c ondine -n "__fish_seen_subcommand_from find" -l csv
complete -c ondine -n "__fish_seen_subcommand_from match" -l json
complete -c ondine -n "__fish_seen_subcommand_from match" -l apply -d 'Take the pictures in'
complete -c ondine -n "__fish_seen_subcommand_from backup" -l to -x -a '(__fish_complete_directories)'
complete -c ondine -n "__fish_seen_subcommand_from backup" -l restore -r
complete -c ondine -s h -l help
