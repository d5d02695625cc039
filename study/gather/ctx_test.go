package gather_test

import "context"

var ctx = context.Background()
