package cli

import _ "time/tzdata" // zones by name, where the system has no database of them
