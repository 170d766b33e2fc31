using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Access;

namespace WideKeel.Store;

/// <content>The tables of access.</content>
public sealed partial class WideKeelDb
{
    public DbSet<ToxicPairRow> ToxicPairs => Set<ToxicPairRow>();

    public DbSet<AccessReview> Reviews => Set<AccessReview>();

    public DbSet<ReviewRound> ReviewRounds => Set<ReviewRound>();

    public DbSet<ReviewLine> ReviewLines => Set<ReviewLine>();

    public DbSet<OwnerSettings> OwnerSettings => Set<OwnerSettings>();

    public DbSet<OwnerQuestion> OwnerQuestions => Set<OwnerQuestion>();

    public DbSet<MendingNews> MendingNews => Set<MendingNews>();

    public DbSet<MendingSeen> MendingSeen => Set<MendingSeen>();

    public DbSet<ReviewerLink> ReviewerLinks => Set<ReviewerLink>();
}
