# Writes reference.json, what R says of monthly series it ships with. Run with
# Rscript reference.R > reference.json (Debian's r-base-core).
num <- function(x) paste0("[", paste(ifelse(is.na(x), "null", format(x, digits = 12, trim = TRUE)), collapse = ","), "]")
one <- function(name, x, start) {
  d <- decompose(x, "multiplicative")
  keep <- !is.na(d$random)
  r <- log(d$random[keep]); s <- log(d$seasonal[keep])
  l <- decompose(log(x))
  rl <- l$random[keep]; sl <- l$seasonal[keep]
  adj <- as.numeric(x / d$seasonal)
  k <- suppressWarnings(cor.test(adj, seq_along(adj), method = "kendall", exact = FALSE, continuity = TRUE))
  pairs <- outer(seq_along(adj), seq_along(adj), function(i, j) (adj[j] - adj[i]) / (j - i))
  sen <- median(pairs[upper.tri(pairs)])
  sprintf('{"name":"%s","start":%s,"values":%s,"figure":%s,"strength":%.9f,"strengthLogDecomposed":%.9f,"p":%.9g,"tau":%.9f,"sen":%.9f}',
    name, start, num(as.numeric(x)), num(d$figure), max(0, 1 - var(r) / var(s + r)), max(0, 1 - var(rl) / var(sl + rl)), k$p.value, k$estimate, sen)
}
rows <- c(one("AirPassengers", AirPassengers, '"1949-01"'), one("USAccDeaths", USAccDeaths, '"1973-01"'),
  one("nottem", nottem, '"1920-01"'), one("co2", window(co2, 1980, c(1989, 12)), '"1980-01"'))
cat(sprintf('{"R":"%s","series":[\n%s\n]}\n', R.version.string, paste(rows, collapse = ",\n")))
