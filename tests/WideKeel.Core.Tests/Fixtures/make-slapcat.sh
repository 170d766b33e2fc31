#!/bin/sh
# Writes slapcat.ldif: a small directory put into OpenLDAP (Debian: slapd) and exported by its slapcat, which folds long
# lines, writes what is not ASCII in base64 and adds operational attributes. Run it in an empty folder.
set -e
mkdir -p db
cat > slapd.conf <<CONF
include /etc/ldap/schema/core.schema
include /etc/ldap/schema/cosine.schema
include /etc/ldap/schema/inetorgperson.schema
modulepath /usr/lib/ldap
moduleload back_mdb
database mdb
suffix "dc=tarn,dc=example"
directory $PWD/db
CONF
cat > in.ldif <<LDIF
dn: dc=tarn,dc=example
objectClass: organization
objectClass: dcObject
o: Tarn
dc: tarn

dn: ou=people,dc=tarn,dc=example
objectClass: organizationalUnit
ou: people

dn: cn=Dörte Sørensen,ou=people,dc=tarn,dc=example
objectClass: inetOrgPerson
cn: Dörte Sørensen
sn: Sørensen
mail: dorte.soerensen@tarn.example
departmentNumber: Harbour Operations and the Maintenance of Piers, Moorings and Fenders on All Islands
manager: cn=Bo Falk,ou=people,dc=tarn,dc=example

dn: cn=Bo Falk,ou=people,dc=tarn,dc=example
objectClass: inetOrgPerson
cn: Bo Falk
sn: Falk
mail: bo.falk@tarn.example
departmentNumber: Yard

dn: cn=Pier crew,ou=people,dc=tarn,dc=example
objectClass: groupOfNames
cn: Pier crew
member: cn=Dörte Sørensen,ou=people,dc=tarn,dc=example
member: cn=Yard,ou=people,dc=tarn,dc=example

dn: cn=Yard,ou=people,dc=tarn,dc=example
objectClass: groupOfUniqueNames
cn: Yard
uniqueMember: cn=Bo Falk,ou=people,dc=tarn,dc=example
LDIF
/usr/sbin/slapadd -f slapd.conf -l in.ldif
/usr/sbin/slapcat -f slapd.conf -l slapcat.ldif
