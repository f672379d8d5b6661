/** Holds what schedules owed against what became of it: pure computation on what a store has read. */
package dev.brume.tally;
