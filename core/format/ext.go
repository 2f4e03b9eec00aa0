package format

// Namespace is the address of Gyrolith's own small extension of XML formats, in which travels what a
// format has no word for. docs/formats/extension.md specifies it.
const Namespace = "urn:gyrolith:1"

// Prefix is the prefix that it is written with.
const Prefix = "gyro"
