using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Workspaces;

namespace ComeAboard.Service.Mail;

/// <summary>Which letters a workspace may word itself.</summary>
public enum WordedLetter
{
    /// <summary>The invitation.</summary>
    Invitation,

    /// <summary>The reminder of it.</summary>
    Reminder,
}

/// <summary>Every letter, in the language of whoever gets it.</summary>
public static class Letters
{
    /// <summary>An invitation or a reminder of it.</summary>
    /// <param name="letter">Which of the two.</param>
    /// <param name="invitation">What is offered.</param>
    /// <param name="workspace">Where.</param>
    /// <param name="world">Who may do what there.</param>
    /// <param name="own">The workspace's own wording; null for the one that ships.</param>
    /// <param name="link">The link of the invitation.</param>
    public static Letter Invitation(
        WordedLetter letter,
        InvitationRow invitation,
        WorkspaceRow workspace,
        AccessWorld world,
        Wording? own,
        string link
    )
    {
        var phrases = Phrases.Of(invitation.Language);
        var can = Bundles.Sentence(
            phrases,
            world,
            invitation.Bundle,
            [],
            invitation.OrganisationId,
            invitation.Kind
        );
        var deadline = phrases.Instant(invitation.Deadline, workspace.Zone);
        var shipped = letter == WordedLetter.Reminder ? phrases.Reminder : phrases.Invitation;
        var (subject, paragraphs) = Fill(
            own,
            shipped,
            new Dictionary<string, string>
            {
                ["greeting"] = phrases.Greeting(invitation.Name),
                ["name"] = invitation.Name,
                ["inviter"] = PlainText.Defused(invitation.InvitedByName),
                ["workspace"] = PlainText.Defused(workspace.Name),
                ["as_kind"] = phrases.AsKind(invitation.Kind),
                ["can"] = PlainText.Defused(Lower(phrases, can)),
                ["stay"] = phrases.StaySentence(invitation.Stay),
                ["deadline"] = deadline,
                ["host"] = PlainText.Defused(invitation.HostName),
                ["organisation"] = PlainText.Defused(invitation.Organisation),
            }
        );
        var words = new LetterWords(
            subject.Length > 0 ? subject : workspace.Name,
            paragraphs,
            [
                .. NeedsApproval(invitation, workspace) ? (string[])[phrases.Page.ApprovalNote] : [],
                .. phrases.InvitationSmall(invitation.Address, deadline, invitation.InvitedByName),
            ]
        )
        {
            Quote = invitation.Message,
            QuotedBy = phrases.Writes(invitation.InvitedByName),
            Action = phrases.SeeTheInvitation,
            Link = link,
        };
        return LayOut(words, workspace, invitation.Name, invitation.Language) with
        {
            StopLink = link + "/stop",
        };
    }

    private static bool NeedsApproval(InvitationRow invitation, WorkspaceRow workspace) =>
        invitation.NeedsApproval
        || WorkspaceRules.Of(workspace).NeedsApproval(invitation.Kind, invitation.Bundle);

    public static Letter Code(
        InvitationRow invitation,
        WorkspaceRow workspace,
        string code,
        string account
    ) =>
        LayOut(
            Phrases.Of(invitation.Language).Code(workspace.Name, invitation.Address, account, code),
            workspace,
            "",
            invitation.Language
        );

    public static Letter Welcome(
        MemberRow member,
        WorkspaceRow workspace,
        string can,
        string language,
        string link
    )
    {
        var phrases = Phrases.Of(language);
        var words = phrases.Welcome(
            member.Name,
            workspace.Name,
            phrases.AsKind(member.Kind),
            Lower(phrases, can),
            phrases.StaySentence(member.Stay),
            member.Address,
            phrases.Instant(member.JoinedAt, workspace.Zone),
            member.HostName.Length > 0 ? member.HostName : null
        ) with
        {
            Action = phrases.SeeYourPlaces,
            Link = link,
        };
        return LayOut(words, workspace, member.Name, language);
    }

    public static Letter Accepted(string reader, MemberRow member, WorkspaceRow workspace, string link)
    {
        var phrases = Phrases.Of(workspace.Language);
        var words = phrases.Accepted(
            reader,
            member.Name,
            workspace.Name,
            member.Address,
            phrases.AsKind(member.Kind)
        ) with
        {
            Action = phrases.SeeThePerson,
            Link = link,
        };
        return LayOut(words, workspace, reader, workspace.Language);
    }

    public static Letter AwaitsApproval(
        string reader,
        string person,
        InvitationRow invitation,
        WorkspaceRow workspace,
        string link
    )
    {
        var phrases = Phrases.Of(workspace.Language);
        var words = phrases.AwaitsApproval(
            reader,
            person,
            workspace.Name,
            phrases.AsKind(invitation.Kind)
        ) with
        {
            Action = phrases.SeeTheInvitation,
            Link = link,
        };
        return LayOut(words, workspace, reader, workspace.Language);
    }

    public static Letter Waiting(string name, InvitationRow invitation, WorkspaceRow workspace) =>
        LayOut(
            Phrases.Of(invitation.Language).Waiting(name, workspace.Name),
            workspace,
            name,
            invitation.Language
        );

    public static Letter NotApproved(InvitationRow invitation, WorkspaceRow workspace, string reason) =>
        LayOut(
            Phrases.Of(invitation.Language).NotApproved(invitation.Name, workspace.Name, reason),
            workspace,
            invitation.Name,
            invitation.Language
        );

    /// <summary>What somebody had accepted, and waited for, was taken back.</summary>
    public static Letter TakenBack(InvitationRow invitation, WorkspaceRow workspace) =>
        LayOut(
            Phrases.Of(invitation.Language).TakenBack(invitation.Name, workspace.Name),
            workspace,
            invitation.Name,
            invitation.Language
        );

    public static Letter Declined(InvitationRow invitation, WorkspaceRow workspace, No no, string link)
    {
        var phrases = Phrases.Of(workspace.Language);
        var words = phrases.Declined(invitation.InvitedByName, invitation.Address, workspace.Name, no) with
        {
            Action = phrases.SeeTheInvitation,
            Link = link,
        };
        return LayOut(words, workspace, invitation.InvitedByName, workspace.Language);
    }

    /// <summary>What somebody may do has changed.</summary>
    public static Letter AccessChanged(MemberRow member, WorkspaceRow workspace, string can, string link)
    {
        var phrases = Phrases.Of(workspace.Language);
        var words = phrases.AccessChanged(member.Name, workspace.Name, can) with
        {
            Action = phrases.SeeYourPlaces,
            Link = link,
        };
        return LayOut(words, workspace, member.Name, workspace.Language);
    }

    public static Letter Ended(MemberRow member, WorkspaceRow workspace)
    {
        var phrases = Phrases.Of(workspace.Language);
        return LayOut(
            phrases.Ended(member.Name, workspace.Name, phrases.AsKind(member.Kind)),
            workspace,
            member.Name,
            workspace.Language
        );
    }

    public static Letter Reinstated(MemberRow member, WorkspaceRow workspace)
    {
        var phrases = Phrases.Of(workspace.Language);
        return LayOut(
            phrases.Reinstated(member.Name, workspace.Name, phrases.AsKind(member.Kind)),
            workspace,
            member.Name,
            workspace.Language
        );
    }

    /// <summary>A link by which a forgotten password is replaced.</summary>
    public static Letter NewPassword(AccountRow account, WorkspaceRow workspace, string link)
    {
        var phrases = Phrases.Of(account.Language);
        var words = phrases.NewPassword(account.Name) with { Action = phrases.Page.NewPassword, Link = link };
        return LayOut(words, workspace, account.Name, account.Language);
    }

    /// <summary>A code by which somebody signs in.</summary>
    public static Letter SignInCode(AccountRow account, WorkspaceRow workspace, string code) =>
        LayOut(
            Phrases.Of(account.Language).SignInCode(account.Name, code),
            workspace,
            account.Name,
            account.Language
        );

    /// <summary>A link by which an address is proved.</summary>
    public static Letter ProveAddress(AccountRow account, WorkspaceRow workspace, string address, string link)
    {
        var phrases = Phrases.Of(account.Language);
        var words = phrases.ProveAddress(account.Name, address) with
        {
            Action = phrases.Page.ProveButton,
            Link = link,
        };
        return LayOut(words, workspace, account.Name, account.Language);
    }

    /// <summary>That a password was changed.</summary>
    public static Letter PasswordChanged(
        AccountRow account,
        WorkspaceRow workspace,
        DateTimeOffset at,
        string link
    )
    {
        var phrases = Phrases.Of(account.Language);
        var words = phrases.PasswordChanged(account.Name, phrases.Instant(at, workspace.Zone)) with
        {
            Action = phrases.Page.Forgotten,
            Link = link,
        };
        return LayOut(words, workspace, account.Name, account.Language);
    }

    /// <summary>The question to the holder of an account whether it comes into a workspace's custody.</summary>
    public static Letter ClaimAsked(
        AccountRow account,
        WorkspaceRow workspace,
        ClaimRow claim,
        string link,
        bool isAgain
    )
    {
        var phrases = Phrases.Of(account.Language);
        var words = phrases.ClaimAsked(
            account.Name,
            workspace.Name,
            claim.AskedByName,
            claim.Address,
            claim.Reason,
            claim.Silence,
            phrases.Instant(claim.Deadline!.Value, workspace.Zone),
            isAgain
        ) with
        {
            Action = phrases.Page.ClaimAnswer,
            Link = link,
        };
        return LayOut(words, workspace, account.Name, account.Language);
    }

    /// <summary>That an account was made for somebody, with the link that sets it up.</summary>
    public static Letter AccountMade(AccountRow account, WorkspaceRow workspace, string by, string link)
    {
        var phrases = Phrases.Of(account.Language);
        var words = phrases.AccountMade(account.Name, workspace.Name, by, account.Address) with
        {
            Action = phrases.Page.SetUpAccount,
            Link = link,
        };
        return LayOut(words, workspace, account.Name, account.Language);
    }

    /// <summary>What became of that question.</summary>
    public static Letter ClaimTurned(AccountRow account, WorkspaceRow workspace, ClaimRow claim, string link)
    {
        var phrases = Phrases.Of(account.Language);
        var words = phrases.ClaimTurned(
            account.Name,
            workspace.Name,
            claim.AskedByName,
            claim.Address,
            claim.State,
            account.Address
        ) with
        {
            Action = phrases.Page.YourAccount,
            Link = link,
        };
        return LayOut(words, workspace, account.Name, account.Language);
    }

    /// <summary>What the holder of an account said to a claim, for whoever asked.</summary>
    public static Letter ClaimAnswered(
        MemberRow asker,
        WorkspaceRow workspace,
        string holder,
        ClaimRow claim,
        bool isSilence,
        string link
    )
    {
        var phrases = Phrases.Of(workspace.Language);
        var words = phrases.ClaimAnswered(
            asker.Name,
            workspace.Name,
            PlainText.Defused(holder),
            claim.Address,
            claim.State,
            isSilence
        ) with
        {
            Action = phrases.Page.OpenConsole,
            Link = link,
        };
        return LayOut(words, workspace, asker.Name, workspace.Language);
    }

    /// <summary>A code that shows another address to be the holder's own.</summary>
    public static Letter AddressCode(
        AccountRow account,
        WorkspaceRow workspace,
        string address,
        string code
    ) =>
        LayOut(
            Phrases.Of(account.Language).AddressCode(account.Name, address, code),
            workspace,
            account.Name,
            account.Language
        );

    /// <summary>The code by which somebody shows that the account at another address is theirs, too.</summary>
    public static Letter MergeCode(AccountRow account, WorkspaceRow workspace, string address, string code) =>
        LayOut(
            Phrases.Of(account.Language).MergeCode(account.Address, address, code),
            workspace,
            account.Name,
            account.Language
        );

    /// <summary>What became of the proof of a mail domain.</summary>
    public static Letter DomainTurned(
        MemberRow member,
        WorkspaceRow workspace,
        string domain,
        DomainTurn turn,
        DateTimeOffset? lostAt,
        string link
    )
    {
        var phrases = Phrases.Of(workspace.Language);
        var by = lostAt is { } at ? phrases.Instant(at, workspace.Zone) : "";
        var words = phrases.DomainTurned(member.Name, workspace.Name, domain, turn, by) with
        {
            Action = phrases.Page.SeeDomains,
            Link = link,
        };
        return LayOut(words, workspace, member.Name, workspace.Language);
    }

    /// <summary>That a member comes in by another account of theirs from now on, or by their own again.</summary>
    public static Letter AccountMerged(
        MemberRow reader,
        WorkspaceRow workspace,
        MemberRow member,
        string account,
        bool isParted,
        string link
    )
    {
        var phrases = Phrases.Of(workspace.Language);
        var words = phrases.AccountMerged(
            reader.Name,
            workspace.Name,
            member.Name,
            member.Address,
            account,
            isParted
        ) with
        {
            Action = phrases.Page.SeePerson,
            Link = link,
        };
        return LayOut(words, workspace, reader.Name, workspace.Language);
    }

    /// <summary>That a workspace proposes a name or an address for an account.</summary>
    public static Letter Proposed(
        AccountRow account,
        WorkspaceRow workspace,
        ProposalRow proposal,
        string link
    )
    {
        var phrases = Phrases.Of(account.Language);
        var words = phrases.Proposed(
            account.Name,
            workspace.Name,
            proposal.MadeByName,
            proposal.Name,
            proposal.Address,
            proposal.Reason,
            phrases.Instant(proposal.LapsesAt, workspace.Zone)
        ) with
        {
            Action = phrases.Page.YourAccount,
            Link = link,
        };
        return LayOut(words, workspace, account.Name, account.Language);
    }

    /// <summary>That something by which one signs in was added or removed.</summary>
    public static Letter WayInChanged(
        AccountRow account,
        WorkspaceRow workspace,
        string what,
        DateTimeOffset at,
        string link
    )
    {
        var phrases = Phrases.Of(account.Language);
        var words = phrases.WayInChanged(account.Name, what, phrases.Instant(at, workspace.Zone)) with
        {
            Action = phrases.Page.YourAccount,
            Link = link,
        };
        return LayOut(words, workspace, account.Name, account.Language);
    }

    /// <summary>Lays a letter out as it goes out from a workspace.</summary>
    public static Letter LayOut(LetterWords words, WorkspaceRow workspace, string toName, string language) =>
        LetterLayout.LayOut(words, workspace, toName, language);

    /// <summary>A wording that was good when it was tried and fails on these words holds no mail up.</summary>
    private static (string Subject, IReadOnlyList<string> Paragraphs) Fill(
        Wording? own,
        Wording shipped,
        Dictionary<string, string> words
    )
    {
        if (own is null)
            return Templates.Fill(shipped, words);
        try
        {
            var filled = Templates.Fill(own, words);
            // What it comes to for this invitee is what goes out, so that is what may hold no link.
            return
                PlainText.FindLink(filled.Subject) is null
                && filled.Paragraphs.All(paragraph => PlainText.FindLink(paragraph) is null)
                ? filled
                : Templates.Fill(shipped, words);
        }
        catch (Exception fault) when (fault is not OutOfMemoryException)
        {
            return Templates.Fill(shipped, words);
        }
    }

    // A sentence that goes on after a colon begins small in English; a German one after a colon may stay as it is.
    private static string Lower(Phrases phrases, string sentence) =>
        phrases.Language == "en" ? Words.Continued(sentence) : sentence;
}
