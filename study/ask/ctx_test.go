package ask_test

import "context"

var ctx = context.Background()
