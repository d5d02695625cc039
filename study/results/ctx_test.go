package results_test

import "context"

var ctx = context.Background()
