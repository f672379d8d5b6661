/**
 * The engine's duties: what an instance does, each as one step that takes time from outside and says
 * when it wants to be called again.
 *
 * <p>Threads drive them in production, a simulator drives the same ones in virtual time. All state
 * that an instance has besides the store is in {@link dev.brume.internal.duty.Instance}.
 */
@NullMarked
package dev.brume.internal.duty;

import org.jspecify.annotations.NullMarked;
