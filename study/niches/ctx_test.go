package niches_test

import "context"

var ctx = context.Background()
