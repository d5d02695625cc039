package jobs_test

import "context"

var ctx = context.Background()
