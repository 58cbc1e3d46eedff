"""Field names of the independently calculated cases, mapped to what our functions say."""

import math

import numpy as np

from haremile.core.comparison.machines import bonferroni, log_mean, machines_field
from haremile.core.planning.repeats import two_sample_power, two_sample_repeats
from haremile.core.standing.total import Recipe, stored_reference, totals
from haremile.core.statistics.contrast import contrast, rank_sum_interval, ratio_estimate
from haremile.core.statistics.equivalence import equivalence
from haremile.core.statistics.lane_statistics import (
    median_interval,
    quantile,
    summarise_lane,
    widest_median_interval,
)
from haremile.core.statistics.location_tests import hedges_g, mann_whitney, rank_sum_normal, welch
from haremile.core.statistics.omnibus_tests import friedman, kruskal_wallis
from haremile.core.statistics.order_statistics import PairwiseDifferences
from haremile.core.statistics.paired import paired_contrast, pseudo_median
from haremile.core.statistics.permutation import permutation_test
from haremile.core.statistics.resampling import bootstrap_interval
from haremile.core.statistics.run_order import diagnose_sequence, modified_z
from haremile.core.statistics.studentised_rank import studentised_statistic
from haremile.core.statistics.variance_components import (
    boots_per_install,
    install_means_interval,
    moment_components,
    reml_components,
)


def one_sample(given):
    x = given["x"]
    found, limits, widest = summarise_lane(x), median_interval(x), widest_median_interval(x)
    mean = found.mean_interval
    return {
        "n": found.n,
        "mean": found.mean,
        "sd": found.sd,
        "variance": found.sd**2,
        "cv": found.cv,
        "median": found.median,
        "q1_type7": found.q1,
        "q3_type7": found.q3,
        "iqr_type7": found.iqr,
        "p05_type7": quantile(x, 0.05),
        "p95_type7": quantile(x, 0.95),
        "mad_raw": found.mad,
        "mad_scaled_exact": found.mad_scaled,
        "min": found.minimum,
        "max": found.maximum,
        "geometric_mean": found.geometric_mean,
        "se": found.se,
        "mean_ci95_low": mean and mean.low,
        "mean_ci95_high": mean and mean.high,
        "median_ci95_low": limits and limits.low,
        "median_ci95_high": limits and limits.high,
        "median_ci95_coverage": limits and limits.level,
        "median_ci_max_possible_coverage": widest.level,
        "median_of_walsh_averages": pseudo_median(x).value,
    }


def two_sample(given):
    x, y = given["x"], given["y"]
    found, ranks, means = contrast(y, x), mann_whitney(y, x), welch(y, x)  # x against y
    limits, logs = rank_sum_interval(y, x), welch(np.log(y), np.log(x))
    has_ties = ranks.method != "exact"
    is_constant = len(set(x + y)) == 1
    u_of_x = {
        "greater": rank_sum_normal(np.array(y), np.array(x), "greater"),
        "less": rank_sum_normal(np.array(y), np.array(x), "less"),
    }
    brunner, df = studentised_statistic(
        *PairwiseDifferences(np.array(x, float), np.array(y, float)).placements(0.0, False)
    )
    said = {
        "n_x": found.n_b,
        "n_y": found.n_a,
        "mean_difference": means.difference,
        "welch_t": means.t,
        "welch_df": means.df,
        "welch_p": means.p,
        "welch_ci95_low": means.low,
        "welch_ci95_high": means.high,
        "mann_whitney_u_x": ranks.u,
        "mann_whitney_exact_p": None if has_ties else ranks.p,
        "hl_shift": found.shift.value,
        "hl_ci95_low_orderstat": limits.low,
        "hl_ci95_high_orderstat": limits.high,
        "hl_ci95_exact_achieved_level": limits.level,
        "cliffs_delta": found.cliffs_delta,
        "probability_x_greater": 1 - found.probability_b_lower,
        "hedges_g_exact_gamma": hedges_g(y, x),
        "ratio_of_medians": float(np.median(x) / np.median(y)),
        "ratio_gm_welch_log_ci95_low": logs.low and math.exp(logs.low),
        "ratio_gm_welch_log_ci95_high": logs.high and math.exp(logs.high),
        "log_welch_p": logs.p,
        "ratio_of_geometric_means": math.exp(logs.difference),
    }
    if not is_constant:
        said["mann_whitney_exact_conditional_p_with_ties"] = ranks.p if has_ties else None
        said["mann_whitney_normal_p_continuity"] = min(2 * min(u_of_x.values()), 1.0)
        if not has_ties:  # theirs gives ties half, ours counts them to one side
            said["brunner_munzel_statistic"], said["brunner_munzel_df"] = brunner, df
    assert ratio_estimate(y, x) is not None
    return said


def paired(given):
    found = paired_contrast(given["y"], given["x"])
    ratios = np.array(given["x"]) / np.array(given["y"])
    mean, limits, p = log_mean(ratios)
    return {
        "n": found.n,
        "wilcoxon_v": found.test.v,
        "n_nonzero": found.test.n_used,
        "signed_rank_exact_conditional_p_with_ties_zeros_dropped": found.test.p,
        "pseudo_median_walsh": found.shift.value,
        "pseudo_median_ci95_low_orderstat": found.shift.interval.low,
        "pseudo_median_ci95_high_orderstat": found.shift.interval.high,
        "pseudo_median_ci_achieved_level": found.shift.interval.level,
        "geometric_mean_ratio": mean,
        "geometric_mean_ratio_ci95_low": limits.low,
        "geometric_mean_ratio_ci95_high": limits.high,
        "log_ratio_paired_p": p,
    }


def sequence(given):
    found, z = diagnose_sequence(given["x"]), modified_z(given["x"])
    return {
        "n": found.n,
        "lag1_autocorrelation": found.lag1,
        "mann_kendall_s": found.trend.s,
        "kendall_tau_b": found.trend.tau,
        "mann_kendall_p_normal_continuity": found.trend.p,
        "theil_sen_slope_per_run": found.trend.slope_per_run,
        "shapiro_w": found.shapiro_w,
        "shapiro_p": found.shapiro_p,
        "modified_z_outlier_indices_3p5": list(found.far_out),
        "modified_z": list(z),
    }


def nist_style(given):
    found = summarise_lane(given["x"])
    lag1 = diagnose_sequence(given["x"]).lag1
    return {"n": found.n, "mean": found.mean, "sd": found.sd, "lag1_autocorrelation": lag1}


def row_means(rows):
    return rows.mean(axis=1)


def row_medians(rows):
    return np.median(rows, axis=1)


def bootstrap_one(given):
    said = {}
    for name, statistic in {"mean": row_means, "median": row_medians}.items():
        found = bootstrap_interval([given["x"]], statistic, given["confidence"], seed=1)
        assert found.method == "BCa"
        said[f"{name}_bca_half_ties_low"] = found.interval.low
        said[f"{name}_bca_half_ties_high"] = found.interval.high
    return said


def bootstrap_two(given):
    statistics = {
        "ratio_of_means": lambda x, y: row_means(x) / row_means(y),
        "ratio_of_medians": lambda x, y: row_medians(x) / row_medians(y),
        "difference_of_medians": lambda x, y: row_medians(x) - row_medians(y),
    }
    said = {}
    for name, statistic in statistics.items():
        found = bootstrap_interval([given["x"], given["y"]], statistic, seed=1)
        said[name] = found.value
        said[f"{name}_bca_half_ties_low"] = found.interval.low
        said[f"{name}_bca_half_ties_high"] = found.interval.high
    return said


def permutation(given):
    found = permutation_test(given["y"], given["x"])
    return {
        "n_arrangements": found.arrangements,
        "observed": found.observed,
        "p_greater": found.p_greater,
        "p_less": found.p_less,
        "p_two_sided_abs": found.p_two_sided,
    }


def tost(given):
    found = equivalence(given["y"], given["x"], share=given["margin"])
    test = welch(np.log(given["y"]), np.log(given["x"]))
    limits = found.interval
    return {
        "estimate": found.estimate,
        "t_lower": found.t_lower,
        "t_upper": found.t_upper,
        "df": found.df,
        "p_lower": found.p_lower,
        "p_upper": found.p_upper,
        "p_tost": found.p,
        "ci90_low": limits.low,
        "ci90_high": limits.high,
        "equivalent_at_5pct": found.p < 0.05,
        "difference_test_p": test.p,
        "ratio": math.exp(found.estimate),
        "ratio_ci90_low": math.exp(limits.low),
        "ratio_ci90_high": math.exp(limits.high),
        "rank_tost_p": found.rank_p,
    }


def many_sample(given):
    groups = list(given["groups"].values())
    look = kruskal_wallis(groups)
    pairs = [(i, j) for i in range(len(groups)) for j in range(i + 1, len(groups))]
    names = list(given["groups"])
    ranks = [
        2
        * min(rank_sum_normal(*(np.array(groups[k]) for k in pair), s) for s in ("less", "greater"))
        for pair in pairs
    ]
    return {
        "kruskal_h": look.statistic,
        "kruskal_df": look.df,
        "kruskal_p": look.p,
        "epsilon_squared": look.effect,
        "pairs": [f"{names[i]}|{names[j]}" for i, j in pairs],
        "pairwise_welch_p": [welch(groups[i], groups[j]).p for i, j in pairs],
        "pairwise_mwu_p_continuity": ranks,
    }


def blocks(given):
    matrix = np.array(given["matrix"])
    look = friedman(matrix)
    found = [pair for pair in machines_field(matrix, 0.3) if pair.a < pair.b]  # 0.3 / 6 = 0.05
    return {
        "friedman_chi2": look.statistic,
        "friedman_df": look.df,
        "friedman_p": look.p,
        "kendalls_w": look.effect,
        "pairs": [f"{p.a + 1}|{p.b + 1}" for p in found],
        "geometric_mean_ratio_second_over_first": [p.geometric_mean for p in found],
        "ratio_ci95_low": [p.interval.low for p in found],
        "ratio_ci95_high": [p.interval.high for p in found],
        "paired_log_p": [p.p_adjusted / 6 for p in found],
    }


def p_adjust(given):
    return {"bonferroni": [bonferroni(p, len(given["p"])) for p in given["p"]]}


def planning(given):
    if "c1" in given:
        pays = boots_per_install(given["c2"], given["c1"], given["v1"], given["v2"])
        return {"r1_real": pays, "r1_ceiling": math.ceil(pays)}
    asked = (given["delta"], given["sd"])
    repeats = two_sample_repeats(*asked, given["power"], given["alpha"])
    return {
        "n_per_group_two_sample": repeats,
        "n_per_group_two_sample_ceiling": math.ceil(repeats),
        "power_at_n10": two_sample_power(10, *asked, given["alpha"]),
    }


def composite(given):
    keys = dict(zip(given["columns"], ("boot.total", "memory.used", "launch.main"), strict=True))
    table = {
        name: {keys[c]: [v] for c, v in zip(given["columns"], row, strict=True)}
        for name, row in zip(given["rows"], given["matrix"], strict=True)
    }
    recipe, said = Recipe(dict.fromkeys(keys.values(), 1.0), {}), {}
    for name in ("A", "D"):
        reference = stored_reference(recipe, table[name], name)
        found = totals(recipe, reference, table, resamples=100)
        scores = {one.system: 100 / one.total for one in found.systems}  # theirs: less is better
        said[f"geometric_mean_ratio_ref_{name}"] = [scores[row] for row in given["rows"]]
        said[f"order_ref_{name}"] = [one.system for one in found.systems]
    return said


def variance_components(given):
    installs = given["installs"]
    moments, reml = moment_components(installs), reml_components(installs)
    mean, limits = install_means_interval(installs)
    return {
        "groups": len(installs),
        "n0": moments.n0,
        "ms_between": moments.mean_square_between,
        "ms_within": moments.mean_square_within,
        "anova_f": moments.f,
        "anova_p": moments.p,
        "moment_var_within": moments.within,
        "moment_var_between_raw": moments.between_raw,
        "moment_var_between_truncated": moments.between,
        "icc_moment_truncated": moments.icc,
        "reml_var_between": reml.between,
        "reml_var_within": reml.within,
        "reml_icc": reml.icc,
        "reml_fixed_mean": reml.mean,
        "reml_mean_se": reml.mean_se,
        "reml_profile_var_between": reml.between,
        "reml_profile_var_within": reml.within,
        "mean_of_install_means": mean,
        "ci95_install_means_low": limits.low,
        "ci95_install_means_high": limits.high,
    }


NOT_OURS = {
    "the median has an exact interval; percentile and basic bootstraps are not offered": [
        "*_percentile_*",
        "*_basic_*",
        "limit_*",
        "median_boot_*",
    ],
    "ties count half in the bias term; this variant leaves them out": ["*_bca_r_*"],
    "a numerical root, not the median of pairwise differences": ["*r_asymptotic_*"],
    "ranks in large samples are continuity-corrected here": [
        "mann_whitney_normal_p_no_continuity",
        "signed_rank_normal_p*",
        "kendall_p_*",
    ],
    "exact only without ties; ours is the conditional one": [
        "signed_rank_exact_p",
        "pseudo_median_ci95_*_exact",
        "hl_ci95_*_exact",
        "mann_whitney_exact_conditional_p_with_ties*",
        "mann_whitney_normal_p_continuity",
    ],
    "zeros are dropped here": ["signed_rank_exact_conditional_p_pratt"],
    "errors are shared out in a single step, so that picture and sentence agree": [
        "*_holm",
        "*_bh",
        "holm",
        "bh",
        "by",
        "hochberg",
    ],
    "pairs are judged by rank intervals; these are other families": [
        "tukey_*",
        "games_howell_*",
        "dunn_*",
        "anova_*",
        "welch_anova_*",
        "brown_forsythe_*",
        "quade_*",
        "iman_davenport_*",
        "log_two_way_*",
        "student_*",
        "cohens_*",
        "sign_*",
        "paired_t",
        "paired_df",
        "paired_p",
        "paired_ci95_*",
        "sd_difference",
    ],
    "its statistic serves the interval under unequal spread, ties to one side": [
        "brunner_munzel_*",
    ],
    "effect sizes come without an interval of their own": [
        "cliffs_delta_*",
        "hedges_g_approx_*",
        "hedges_g_ci95*",
        "hedges_g_r_*",
    ],
    "ratios are typical ratios or of geometric means": ["ratio_of_means", "arith*", "minmax_*"],
    "no measure of ours": [
        "trimmed_mean_20",
        "spearman_*",
        "ljung_*",
        "von_neumann_ratio",
        "r_boxplot_*",
        "tukey_inner*",
        "tukey_outer*",
        "mean_ranks",
        "median_difference",
        "mean_difference",
        "naive_pooled_*",
        "design_effect_*",
        "icc_ci95_*",
        "icc_psych_*",
        "n_total",
        "icc_moment_raw",
        "p_two_sided_double_min",
        "p_coin_*",
    ],
    "the same under another name or rounding": [
        "r_mean",
        "r_sd",
        "r_lag1",
        "mad_scaled_1p4826",
        "median_ci95_k",
        "hl_ci95_qu",
        "pseudo_median_ci_qu",
        "mann_kendall_var",
        "mann_kendall_z",
        "modified_z_fallback_used",
        "r1_nearest_at_least_1",
    ],
    "planned for a verdict on two lanes": [
        "n_pairs*",
        "n_per_group_one_sided",
        "n_per_group_pwr",
        "*_strict",
        "min_detectable_*",
        "n_for_mean_*",
    ],
}
"""What the cases hold beyond our methods, by the reason why."""
