/** Small programs that use Brume, each complete in one file. */
package dev.brume.examples;
