namespace ComeAboard.Client.Invitations;

/// <summary>Another address for an invitation that went to a wrong one.</summary>
/// <param name="Address">The right address.</param>
public sealed record CorrectionRequest(string Address);

/// <summary>More time to answer.</summary>
/// <param name="Days">How many days from now, 1 to 365.</param>
public sealed record ExtensionRequest(int Days);

/// <summary>A link to hand over by another way than mail. It is shown once; the link in the mail goes on counting.</summary>
/// <param name="Link">The link.</param>
/// <param name="Deadline">Until when it can be answered (exclusive).</param>
public sealed record FreshLink(string Link, DateTimeOffset Deadline);

/// <summary>Why an acceptance is turned down.</summary>
/// <param name="Reason">In plain words, for the person; empty for none.</param>
public sealed record RefusalRequest(string? Reason = null);

/// <summary>
/// The same step for several invitations: those named, or – when none is named – all that match the filter, at most
/// 10,000 in one call.
/// </summary>
/// <param name="Step">send (a draft), resend, remind, extend, revoke, approve or refuse.</param>
/// <param name="Ids">Which ones; null or empty for all that match.</param>
/// <param name="State">Only those in this state, or <c>pending</c>.</param>
/// <param name="Kind">Only those of this kind.</param>
/// <param name="Search">Only those with this in name, address or organisation.</param>
/// <param name="Batch">Only those of this batch.</param>
/// <param name="Link">Only those that came by this join link.</param>
/// <param name="Days">For extend: how many days from now.</param>
/// <param name="DryRun">Whether to tell what would happen and change nothing.</param>
public sealed record StepsRequest(
    string Step,
    IReadOnlyList<Guid>? Ids = null,
    string? State = null,
    string? Kind = null,
    string? Search = null,
    Guid? Batch = null,
    Guid? Link = null,
    int? Days = null,
    bool DryRun = false
);

/// <summary>What came of a step for several invitations.</summary>
/// <param name="Done">How many took it, or would.</param>
/// <param name="Refused">Those that did not, at most 200, each with the reason.</param>
/// <param name="RefusedCount">How many did not.</param>
/// <param name="Left">How many more match and were not reached in this call.</param>
public sealed record StepsAnswer(int Done, IReadOnlyList<StepRefusal> Refused, int RefusedCount, int Left);

/// <summary>Why one of several did not take a step.</summary>
/// <param name="Id">Which.</param>
/// <param name="Address">Its address.</param>
/// <param name="Problem">Why not.</param>
public sealed record StepRefusal(Guid Id, string Address, Problem Problem);

/// <summary>An address at which mail came back for good.</summary>
/// <param name="Address">The address.</param>
/// <param name="Sentence">Why, in plain words.</param>
/// <param name="Answer">The mail server's own words.</param>
/// <param name="At">When it came back last.</param>
public sealed record BouncedAddressView(string Address, string Sentence, string Answer, DateTimeOffset At);

/// <summary>What was done with a delivery report.</summary>
/// <param name="Matched">How many of its recipients belong to mails of this workspace.</param>
/// <param name="Results">What it said about each.</param>
public sealed record ReportAnswer(int Matched, IReadOnlyList<ReportResult> Results);

/// <summary>What a report said about one recipient.</summary>
/// <param name="Address">The recipient.</param>
/// <param name="State">delivered, bounced or deferred.</param>
/// <param name="Sentence">In plain words.</param>
/// <param name="InvitationId">The invitation whose mail it was; null for other mail.</param>
public sealed record ReportResult(string Address, string State, string Sentence, Guid? InvitationId);
