/** Proof for stores and for the engine: a contract as reusable tests, and a simulator in virtual time. */
@NullMarked
package dev.brume.testkit;

import org.jspecify.annotations.NullMarked;
