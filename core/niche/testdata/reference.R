# Writes reference.json: what R says of shares that samples show. Run with
# Rscript reference.R > reference.json (Debian's r-base-core).
wilson <- function(k, n) {
  p <- suppressWarnings(prop.test(k, n, conf.level = 0.8, correct = FALSE))$conf.int
  sprintf('{"k":%d,"n":%d,"low":%.10f,"high":%.10f}', k, n, p[1], p[2])
}
# The whole sample counts for four more in a stratum that is the whole sample.
beta <- function(k, n) {
  share <- (k + 0.5) / (n + 1)
  q <- qbeta(c(0.075, 0.5, 0.925), k + 4 * share, n - k + 4 * (1 - share))
  sprintf('{"k":%d,"n":%d,"q":[%.6f,%.6f,%.6f]}', k, n, q[1], q[2], q[3])
}
shares <- mapply(wilson, c(0, 1, 3, 12, 20, 40), c(10, 40, 12, 40, 40, 40))
posteriors <- mapply(beta, c(2, 12, 20, 35), c(40, 40, 40, 40))
cat(sprintf('{"R":"%s","wilson":[\n%s],\n"beta":[\n%s]}\n', R.version.string,
  paste(shares, collapse = ",\n"), paste(posteriors, collapse = ",\n")))
