/**
 * Timed jobs that run once across many instances: the public API.
 *
 * <p>A {@link dev.brume.Job} is defined with schedules, work and policies and handed to a {@link
 * dev.brume.Brume}, which is one instance of the engine on a shared store. Words: a <em>schedule</em>
 * owes <em>occurrences</em>, each becomes a <em>run</em> of one or more <em>attempts</em>, and ends as
 * one line of the <em>ledger</em>. Instants are cut to microseconds on the way in.
 */
@NullMarked
package dev.brume;

import org.jspecify.annotations.NullMarked;
