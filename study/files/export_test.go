package files

// ReadAtOnce is what tests look at from outside.
const ReadAtOnce = readAtOnce
