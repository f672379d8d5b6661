/** The store in memory: for a first try, for tests, and for the simulator. */
package dev.brume.memory;
