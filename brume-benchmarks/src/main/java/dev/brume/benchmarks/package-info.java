/** Figures, each beside raw SQL on the same server in the same run. */
package dev.brume.benchmarks;
