/**
 * The simulator: the real duties of several instances, driven in virtual time from one thread and one
 * seed, with faults, while the promises are checked at every step.
 */
@NullMarked
package dev.brume.simulator;

import org.jspecify.annotations.NullMarked;
