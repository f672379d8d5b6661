/**
 * Time mathematics for recurring and one-off schedules, on {@code java.time} alone.
 *
 * <p>Words used throughout: {@code parse} reads text, {@code of} builds from parts, {@code with}
 * returns a changed copy, {@code next} and {@code previous} are strictly after and strictly before
 * their argument, and a period runs from its inclusive start to its exclusive end. A <em>gap</em> is
 * a stretch of local time that a zone skips, a <em>fold</em> one that it repeats. Nothing here reads
 * a clock, a default zone or a default locale.
 */
@NullMarked
package dev.brume.schedule;

import org.jspecify.annotations.NullMarked;
