namespace ComeAboard.Core.Access;

/// <summary>A seat somebody holds.</summary>
/// <param name="Pool">Of which pool.</param>
/// <param name="Name">Its name.</param>
/// <param name="Since">Since when.</param>
/// <param name="ForCustody">Whether it is held because the workspace holds the account.</param>
public sealed record SeatHeld(Guid Pool, string Name, DateTimeOffset Since, bool ForCustody);
