# Average linkage by R's hclust, for TestAverageLinkage: Rscript reference.R > reference.json
set.seed(4)
n <- 40
s <- matrix(0, n, n)
for (i in 2:n) for (j in 1:(i - 1)) {
  same <- i %% 8 == j %% 8
  if (runif(1) < if (same) 0.9 else 0.3) s[i, j] <- round(if (same) runif(1, 0.3, 1) else runif(1, 0, 0.7), 6)
}
tree <- hclust(as.dist(1 - (s + t(s))), method = "average")
links <- which(s > 0, arr.ind = TRUE)
list_of <- function(v) paste0("[", paste(v, collapse = ", "), "]")
cuts <- c(0.1, 0.2, 0.25, 0.3, 0.4, 0.6)
groups <- sapply(cuts, function(t) list_of(cutree(tree, h = 1 - t)))
cat("{\"a\": ", list_of(links[, 2] - 1), ",\n \"b\": ", list_of(links[, 1] - 1), ",\n \"chance\": ", list_of(s[s > 0]),
  ",\n \"together\": ", list_of(cuts), ",\n \"groups\": [\n  ", paste(groups, collapse = ",\n  "), "]}\n", sep = "")
