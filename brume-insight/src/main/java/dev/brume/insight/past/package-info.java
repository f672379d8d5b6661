/** The record as it stood at an instant of the past. */
@NullMarked
package dev.brume.insight.past;

import org.jspecify.annotations.NullMarked;
