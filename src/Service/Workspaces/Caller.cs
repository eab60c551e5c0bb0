using ComeAboard.Core.Access;

namespace ComeAboard.Service.Workspaces;

/// <summary>Who does something, as the record names them.</summary>
/// <param name="Actor">A member's id, or invitee, service or operator.</param>
/// <param name="Name">Their name.</param>
/// <param name="Via">Through what: console, client, http, page, mail, clock or operator.</param>
/// <param name="MemberId">The member, when it is one.</param>
public sealed record Caller(string Actor, string Name, string Via, Guid? MemberId = null)
{
    /// <summary>Whether they only try it: everything is decided and answered, and nothing is kept.</summary>
    public bool Rehearses { get; init; }

    /// <summary>The only duties of the member that count, where a program acts for them; null for all they hold.</summary>
    public Duties? Bound { get; init; }

    public static Caller Mail { get; } = new("service", "the service", "mail");
    public static Caller Clock { get; } = new("service", "the service", "clock");
    public static Caller Operator { get; } = new("operator", "the operator", "operator");

    public static Caller Invitee(string name, string via) => new("invitee", name, via);

    public static Caller Member(Guid id, string name, string via) => new(id.ToString(), name, via, id);
}
