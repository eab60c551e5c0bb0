namespace ComeAboard.Client.Departures;

/// <summary>What a receipt says: who left, whose decision it was, and what became of each step.</summary>
/// <param name="Issuer">The address of the service and the workspace that signed it.</param>
/// <param name="Workspace">The name of the workspace.</param>
/// <param name="Departure">The id of the departure.</param>
/// <param name="Person">Who left.</param>
/// <param name="Kind">As what they were there: staff, guest, partner or client.</param>
/// <param name="DecidedBy">Whose decision it was.</param>
/// <param name="DecidedAt">When it was decided.</param>
/// <param name="LastDay">The last day of access, inclusive, in the workspace's time zone; null when it ended at once.</param>
/// <param name="EndedAt">When access in the workspace itself ended.</param>
/// <param name="SignedAt">When the receipt was signed: everything was confirmed by then, by the systems, by their taking it, or by somebody's word.</param>
/// <param name="Steps">The steps, in the order in which they were done.</param>
/// <param name="Record">The end of the workspace's record at that moment.</param>
public sealed record Receipt(
    string Issuer,
    string Workspace,
    Guid Departure,
    LeaverView Person,
    string Kind,
    string DecidedBy,
    DateTimeOffset DecidedAt,
    DateOnly? LastDay,
    DateTimeOffset EndedAt,
    DateTimeOffset SignedAt,
    IReadOnlyList<ReceiptStep> Steps,
    ReceiptHead Record
);

/// <summary>One step as a receipt says it.</summary>
/// <param name="Number">Its place, from 1.</param>
/// <param name="Kind">What sort of step it is.</param>
/// <param name="Subject">The name of what it was done to.</param>
/// <param name="Sentence">What was done, as a sentence.</param>
/// <param name="State">confirmed; by hand; or done: told to a system that took it and cannot be asked.</param>
/// <param name="At">When.</param>
/// <param name="Answer">What was found when it was looked at again, or the reason somebody gave.</param>
/// <param name="By">Who said by hand that it is so; empty for nobody.</param>
public sealed record ReceiptStep(
    int Number,
    string Kind,
    string Subject,
    string Sentence,
    string State,
    DateTimeOffset At,
    string Answer,
    string By
)
{
    /// <summary>The file that was put beside somebody's word; null for none.</summary>
    public StepFileView? File { get; init; }
}

/// <summary>The end of a record.</summary>
/// <param name="Sequence">The number of its entries.</param>
/// <param name="Hash">The hash of the last, as 64 hexadecimal digits.</param>
public sealed record ReceiptHead(long Sequence, string Hash);

/// <summary>The public keys with which receipts can be verified (RFC 7517).</summary>
/// <param name="Keys">The keys, old ones too.</param>
public sealed record ReceiptKeys(IReadOnlyList<ReceiptKey> Keys);

/// <summary>One public key (RFC 7518, section 6.2).</summary>
/// <param name="Kty">EC.</param>
/// <param name="Crv">P-256.</param>
/// <param name="X">The one coordinate, base64url.</param>
/// <param name="Y">The other coordinate, base64url.</param>
/// <param name="Kid">The thumbprint of the key (RFC 7638).</param>
/// <param name="Use">sig.</param>
/// <param name="Alg">ES256.</param>
public sealed record ReceiptKey(
    string Kty,
    string Crv,
    string X,
    string Y,
    string Kid,
    string Use = "sig",
    string Alg = "ES256"
);
