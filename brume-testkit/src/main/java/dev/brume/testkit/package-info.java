/** Proof for stores and for the engine: a contract as reusable tests, and a simulator in virtual time. */
package dev.brume.testkit;
