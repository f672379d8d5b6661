/** Holds what schedules owed against what became of it: pure computation on what a store has read. */
@NullMarked
package dev.brume.insight.tally;

import org.jspecify.annotations.NullMarked;
