# What R makes of the same data as our tests, kept with the versions that made it. Called by make check-outside.
args <- commandArgs(trailingOnly = TRUE)
suppressPackageStartupMessages({library(survival); library(lme4); library(metafor); library(jsonlite)})
versions <- c(R = paste(R.version$major, R.version$minor, sep = "."),
  sapply(c("survival", "lme4", "metafor"), function(p) as.character(packageVersion(p))))

# Remission under 6-MP, weeks (Freireich and others, Blood 21 (1963)); negative is still in remission.
weeks <- c(6, 6, 6, -6, 7, -9, 10, -10, -11, 13, 16, -17, -19, -20, 22, 23, -25, -32, -32, -34, -35)
s <- summary(survfit(Surv(abs(weeks), weeks > 0) ~ 1))

# Thirteen trials of the BCG vaccine (Colditz and others, JAMA 271 (1994)), as metafor ships them.
bcg <- escalc(measure = "RR", ai = tpos, bi = tneg, ci = cpos, di = cneg, data = dat.bcg)
dl <- rma(yi, vi, data = bcg, method = "DL")

# Dyestuff: yields of six batches (Davies 1947, as lme4 ships them): variance components and the batches' shrunk means.
m <- lmer(Yield ~ 1 + (1 | Batch), Dyestuff)
v <- as.data.frame(VarCorr(m))$vcov

write_json(list(
  versions = as.list(versions),
  kaplan_meier = data.frame(weeks = s$time, share = s$surv, se = s$std.err),
  dersimonian_laird = list(tau_squared = dl$tau2, mean = as.numeric(dl$beta), se = dl$se, q = dl$QE, yi = as.numeric(bcg$yi), vi = as.numeric(bcg$vi)),
  dyestuff = list(batch_variance = v[1], residual_variance = v[2], mean = as.numeric(fixef(m)),
    yields = split(Dyestuff$Yield, Dyestuff$Batch), shrunk = as.list(setNames(ranef(m)$Batch[, 1], rownames(ranef(m)$Batch))))
), args[1], digits = 12, auto_unbox = TRUE, pretty = TRUE)

# Call-outs against rise: Poisson regression with the years as exposure.
x <- data.frame(years = c(4, 9, 12, 7, 15, 3), rise = c(0, 1.4, 3.6, 6, 9, 12.6), calls = c(1, 2, 5, 4, 14, 5))
p <- glm(calls ~ rise + offset(log(years)), poisson, x)
write_json(list(versions = list(R = versions[["R"]]), exposures = x, calls_year = exp(coef(p)[[1]]), slope = coef(p)[[2]]),
  args[2], digits = 12, auto_unbox = TRUE, pretty = TRUE)

# Road distances between 21 cities of Europe, as R ships them (eurodist, from The Cambridge Encyclopaedia).
km <- as.matrix(eurodist)
write_json(list(versions = list(R = versions[["R"]]), cities = rownames(km), km = unname(km)), args[3], auto_unbox = TRUE)

# How often call-outs really come: gamma beforehand, Poisson counts.
e <- data.frame(seen = c(0, 3, 1, 12, 0), expected = c(6.3, 6.3, .4, 9.5, 250))
shape <- 2 + e$seen; rate <- 2 + e$expected
write_json(list(versions = list(R = versions[["R"]]), factors = data.frame(e, mean = shape / rate, p10 = qgamma(.1, shape, rate), p90 = qgamma(.9, shape, rate))),
  args[4], digits = 12, auto_unbox = TRUE, pretty = TRUE)
