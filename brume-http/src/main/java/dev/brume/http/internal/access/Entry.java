package dev.brume.http.internal.access;

import dev.brume.http.Caller;
import java.util.function.BooleanSupplier;

/**
 * Somebody who was let in.
 *
 * @param caller who they are
 * @param byBrowser whether a browser may have said so by itself, so that orders have to come from a page of here
 * @param isStillGood asks again whether they would be let in
 */
public record Entry(Caller caller, boolean byBrowser, BooleanSupplier isStillGood) {}
