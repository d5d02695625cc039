# Writes reference.json: what R says of shares and sums of samples. Run with
# Rscript reference.R > reference.json (Debian's r-base-core).
set.seed(1)
wilson <- function(k, n) {
  p <- suppressWarnings(prop.test(k, n, conf.level = 0.8, correct = FALSE))$conf.int
  sprintf('{"k":%d,"n":%d,"low":%.10f,"high":%.10f}', k, n, p[1], p[2])
}
shares <- mapply(wilson, c(0, 1, 3, 12, 20, 40), c(10, 40, 12, 40, 40, 40))
means <- replicate(100000, mean(sample(rivers, replace = TRUE)))
q <- quantile(means, c(0.1, 0.5, 0.9))
cat(sprintf('{"R":"%s","wilson":[\n%s],\n"rivers":[%s],"mean":[%.4f,%.4f,%.4f]}\n', R.version.string,
  paste(shares, collapse = ",\n"), paste(rivers, collapse = ","), q[1], q[2], q[3]))
