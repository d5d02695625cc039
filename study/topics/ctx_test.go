package topics_test

import "context"

var ctx = context.Background()
