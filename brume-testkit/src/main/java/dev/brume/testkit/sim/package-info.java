/**
 * The simulator: the real duties of several instances, driven in virtual time from one thread and one
 * seed, with faults, while the promises are checked at every step.
 */
package dev.brume.testkit.sim;
