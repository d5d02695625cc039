package ideas_test

import "context"

var ctx = context.Background()
