/** Doing the work of an attempt: handlers, programs, requests. */
@NullMarked
package dev.brume.internal.work;

import org.jspecify.annotations.NullMarked;
