/** Threads and workers that drive the duties on a real machine. */
package dev.brume.engine;
